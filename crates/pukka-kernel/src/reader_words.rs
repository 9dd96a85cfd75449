//! What the JSON reader complains of, said in plain sentences: no type of the program is named to whoever wrote the file.

/// The reader's words, turned into a sentence.
pub(super) fn plain(says: &str) -> String {
    let (what, place) = says.rfind(" at line ").map_or((says, None), |at| (&says[..at], place(&says[at..])));
    told_by_shape(what).unwrap_or_else(|| match place {
        Some(place) => format!("{} ({place}).", told_by_syntax(what)),
        None => format!("{}.", told_by_syntax(what)),
    })
}

/// " at line 3 column 7" as "line 3, column 7".
fn place(says: &str) -> Option<String> {
    let (line, column) = says.strip_prefix(" at line ")?.split_once(" column ")?;
    Some(format!("line {line}, column {column}"))
}

/// Of JSON that can be read, but is not of the shape asked for.
fn told_by_shape(what: &str) -> Option<String> {
    if let Some(field) = what.strip_prefix("missing field ") {
        return Some(format!("{} is missing.", bare(field)));
    }
    if let Some(field) = what.strip_prefix("duplicate field ") {
        return Some(format!("{} stands here twice.", bare(field)));
    }
    if let Some(rest) = what.strip_prefix("unknown variant ") {
        let (got, wanted) = rest.split_once(", expected ")?;
        let wanted = wanted.strip_prefix("one of ").unwrap_or(wanted).replace('`', "");
        let one_of = if wanted.contains(", ") { "one of " } else { "" };
        return Some(format!("“{}” is not known here: {one_of}{wanted} belongs here.", bare(got)));
    }
    if let Some((got, wanted)) = what.strip_prefix("invalid length ").and_then(|rest| rest.split_once(", expected ")) {
        return Some(format!("This has {got} entries; {} belongs here.", wish(wanted)));
    }
    let (kind, rest) = what.split_once(": ")?;
    let (got, wanted) = rest.split_once(", expected ").unwrap_or((rest, ""));
    match kind {
        "invalid type" => Some(format!("This is {}; {} belongs here.", thing(got), wish(wanted))),
        "invalid value" => Some(format!("{} does not fit: {} belongs here.", value(got), wish(wanted))),
        _ => None,
    }
}

fn bare(text: &str) -> &str {
    text.trim_matches('`')
}

/// Name of the value found.
fn thing(got: &str) -> &'static str {
    match got.split([' ', '`']).next().unwrap_or_default() {
        "string" | "character" => "a text",
        "integer" | "floating" => "a number",
        "boolean" => "true or false",
        "null" | "unit" | "Option" => "empty",
        "sequence" => "a list",
        "map" => "an object",
        _ => "something else",
    }
}

fn value(got: &str) -> String {
    got.split_once(['`', '"']).map_or_else(|| "This".to_owned(), |(_, rest)| rest.trim_end_matches(['`', '"']).to_owned())
}

/// Name of the value that should be there.
fn wish(wanted: &str) -> &'static str {
    let wanted = wanted.trim();
    match wanted {
        "f64" | "f32" | "a number" => "a number",
        "u8" => "a whole number from 0 to 255",
        "u16" => "a whole number from 0 to 65535",
        "u32" | "u64" | "usize" | "u128" => "a whole number from 0 up",
        "i8" | "i16" | "i32" | "i64" | "isize" | "i128" => "a whole number",
        "a boolean" => "true or false",
        "a string" | "string" | "str" | "a borrowed string" | "a character" => "a text",
        "a sequence" => "a list",
        _ if wanted.starts_with("a string") => "a text",
        _ if wanted.contains("timestamp") || wanted.contains("date") => "a date and time, as 2026-11-20T10:00:00Z",
        _ if wanted.contains("sequence") || wanted.contains("tuple") || wanted.contains("array") => "a list",
        _ if wanted.contains("struct") || wanted.contains("map") => "an object",
        _ if wanted.contains("enum") || wanted.contains("variant") => "one of the words known here",
        _ => "something else",
    }
}

/// Of text that is no JSON.
fn told_by_syntax(what: &str) -> String {
    let said = match what {
        w if w.starts_with("EOF while parsing") => "The text ends too soon",
        "expected value" | "expected ident" => "A value is missing here",
        "trailing characters" => "Something follows the end of the document",
        "trailing comma" => "A comma stands before a closing bracket",
        "recursion limit exceeded" => "Brackets are nested too deep",
        "number out of range" => "This number is too large",
        "invalid number" => "This is no number as JSON writes it",
        "invalid escape" => "This backslash has no meaning in a text",
        "key must be a string" => "A key has to be a text in double quotes",
        "expected `:`" => "A colon is missing here",
        w if w.starts_with("expected `,`") => "A comma or a closing bracket is missing here",
        w if w.starts_with("control character") => "There is a control character in a text",
        w if w.contains("surrogate") || w.contains("unicode") => "This is no character of Unicode",
        w if w.starts_with("invalid utf-8") => "The text is not in UTF-8",
        other => return sentence(other),
    };
    said.to_owned()
}

/// A sentence of our own: its marks are made quotation marks, its first letter a capital.
fn sentence(what: &str) -> String {
    let mut open = false;
    let quoted = what.trim_end_matches('.').chars().map(|c| {
        if c != '`' {
            return c;
        }
        open = !open;
        if open { '“' } else { '”' }
    });
    let text: String = quoted.collect();
    let mut letters = text.chars();
    let first = letters.next().map(|c| c.to_uppercase().to_string()).unwrap_or_default();
    format!("{first}{}", letters.as_str())
}

#[cfg(test)]
mod tests {
    use serde::Deserialize;

    use crate::problem::read_json;
    use crate::units::Ohms;

    #[derive(Debug, Deserialize)]
    #[allow(dead_code)]
    struct Sample {
        load: Ohms,
        #[serde(default)]
        count: u8,
        #[serde(default)]
        names: Vec<String>,
        #[serde(default)]
        on: bool,
        kind: Option<Kind>,
    }

    #[derive(Debug, Deserialize)]
    #[serde(rename_all = "kebab-case")]
    enum Kind {
        One,
        Two,
    }

    fn says(text: &str) -> String {
        let problem = read_json::<Sample>(text.as_bytes()).unwrap_err();
        format!("{}: {}", problem.path, problem.says)
    }

    #[test]
    fn no_word_of_the_program_reaches_the_reader() {
        assert_eq!(says(r#"{"load":4,"count":300}"#), "count: 300 does not fit: a whole number from 0 to 255 belongs here.");
        assert_eq!(says(r#"{"load":4,"count":1.5}"#), "count: This is a number; a whole number from 0 to 255 belongs here.");
        assert_eq!(says(r#"{"load":4,"names":"x"}"#), "names: This is a text; a list belongs here.");
        assert_eq!(says(r#"{"load":4,"names":[{}]}"#), "names[0]: This is an object; a text belongs here.");
        assert_eq!(says(r#"{"load":4,"on":null}"#), "on: This is empty; true or false belongs here.");
        assert_eq!(says(r#"{"load":4,"kind":"three"}"#), "kind: “three” is not known here: one or two belongs here.");
        assert_eq!(says(r#"{"load":4,"load":5}"#), ".: load stands here twice.");
        assert_eq!(says("[]"), ".: This is a list; an object belongs here.");
        assert_eq!(says("7"), ".: This is a number; an object belongs here.");
    }

    #[test]
    fn a_list_is_taken_for_no_object_however_deep() {
        #[derive(Debug, Deserialize)]
        #[allow(dead_code)]
        struct Inner {
            amount: f64,
            currency: String,
        }
        #[derive(Debug, Deserialize)]
        #[allow(dead_code)]
        struct Outer {
            price: Option<Inner>,
            more: Vec<Inner>,
            #[serde(flatten)]
            extra: serde_json::Map<String, serde_json::Value>,
        }
        let problem = |text: &str| read_json::<Outer>(text.as_bytes()).unwrap_err();
        assert_eq!(problem(r#"{"price":[139,"GBP"],"more":[]}"#).says, "This is a list; an object belongs here.");
        assert_eq!(problem(r#"{"more":[{"amount":1,"currency":"GBP"},[139,"GBP"]]}"#).says, "This is a list; an object belongs here.");
        assert!(read_json::<Outer>(br#"{"price":null,"more":[{"amount":1,"currency":"GBP"}],"x":[1]}"#).is_ok());
    }

    #[test]
    fn what_is_no_json_is_named_with_its_place() {
        assert_eq!(says("{\n\"load\":4"), ".: The text ends too soon (line 2, column 8).");
        assert_eq!(says(r#"{"load":4,}"#), ".: A comma stands before a closing bracket (line 1, column 11).");
        assert_eq!(says(r#"{"load":4} x"#), ".: Something follows the end of the document (line 1, column 12).");
        assert_eq!(says(r#"{"load" 4}"#), ".: A colon is missing here (line 1, column 9).");
        assert_eq!(says(r#"{"load":1e999}"#), "load: This number is too large (line 1, column 13).");
        assert_eq!(says(&"[".repeat(400)), ".: This is a list; an object belongs here.");
    }
}
