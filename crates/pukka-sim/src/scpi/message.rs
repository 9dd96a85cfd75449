//! A line as its messages: with semicolons between, strings and blocks left whole, and headers that follow the path of the one before.
//!
//! Ref: SCPI-1999 volume 1, 6.2.4 (traversal of the header tree); IEEE 488.2, 7.7.5 and 7.7.6 (strings, blocks).

/// A message: its header from the root, and its parameters as they were typed.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Message {
    /// From the root, without a colon before it.
    pub header: String,
    /// Parameters behind it.
    pub parameters: String,
}

/// The messages of a line, in order.
#[must_use]
pub fn messages(line: &str) -> Vec<Message> {
    let mut path = String::new();
    let mut found = Vec::new();
    for unit in units(line) {
        let (header, parameters) = unit.split_once(char::is_whitespace).unwrap_or((unit, ""));
        if header.starts_with('*') {
            // A common command stands beside the tree.
            found.push(Message { header: header.into(), parameters: parameters.trim().into() });
            continue;
        }
        let whole = match header.strip_prefix(':') {
            Some(absolute) => absolute.to_owned(),
            None => format!("{path}{header}"),
        };
        path = whole.rsplit_once(':').map(|(before, _)| format!("{before}:")).unwrap_or_default();
        found.push(Message { header: whole, parameters: parameters.trim().into() });
    }
    found
}

/// Units between semicolons that are in no string and in no block.
fn units(line: &str) -> Vec<&str> {
    let bytes = line.as_bytes();
    let (mut found, mut from, mut at, mut quote) = (Vec::new(), 0, 0, None);
    while at < bytes.len() {
        match (quote, bytes[at]) {
            (Some(open), byte) if byte == open => quote = None,
            (Some(_), _) => {}
            (None, byte @ (b'"' | b'\'')) => quote = Some(byte),
            (None, b'#') => at += block(&bytes[at..]),
            (None, b';') => {
                found.push(&line[from..at]);
                from = at + 1;
            }
            _ => {}
        }
        at += 1;
    }
    found.push(line.get(from..).unwrap_or_default());
    found.into_iter().map(str::trim).filter(|unit| !unit.is_empty()).collect()
}

/// Bytes of a block behind its first; 0 of what is none.
fn block(bytes: &[u8]) -> usize {
    let digits = match bytes.get(1) {
        // Of no definite length: to the end of the line.
        Some(b'0') => return bytes.len(),
        Some(byte @ b'1'..=b'9') => usize::from(byte - b'0'),
        _ => return 0,
    };
    let length =
        bytes.get(2..2 + digits).and_then(|digits| std::str::from_utf8(digits).ok()).and_then(|digits| digits.parse::<usize>().ok());
    length.map_or(0, |length| (1 + digits + length).min(bytes.len() - 1))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn headers(line: &str) -> Vec<String> {
        messages(line).into_iter().map(|message| message.header).collect()
    }

    #[test]
    fn headers_follow_the_path_of_the_one_before() {
        assert_eq!(headers("SOUR:FREQ 40;LEV -12;:OUTP ON"), ["SOUR:FREQ", "SOUR:LEV", "OUTP"]);
        assert_eq!(headers("SYST:ERR:COUN?;*CLS;ALL?"), ["SYST:ERR:COUN?", "*CLS", "SYST:ERR:ALL?"]);
        assert_eq!(headers("FREQ 40;LEV -12"), ["FREQ", "LEV"]);
    }

    #[test]
    fn strings_and_blocks_are_never_executed() {
        assert_eq!(headers("SIM:AMPL \"x;OUTP ON\";STAT?"), ["SIM:AMPL", "SIM:STAT?"]);
        assert_eq!(messages("DATA #15a;b;c;*CLS")[0].parameters, "#15a;b;c");
        assert_eq!(headers("DATA #15a;b;c;*CLS"), ["DATA", "*CLS"]);
        assert_eq!(headers("DATA #0a;OUTP ON"), ["DATA"], "a block without a length goes to the end");
        assert_eq!(headers("DISP 'it;s'"), ["DISP"]);
    }
}
