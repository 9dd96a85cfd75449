//! One spelling for all: small letters, no accents, one word for each unit, decimal points, thousands joined.

use super::words::patterns;

patterns! {
    /// Thousands in a number with watts behind it: 1,200 W, 1.200 W, 1 200 W, 1'200 W.
    THOUSANDS = r"(^|[^\d.,])([1-9]\d{0,2})[.,' ](\d{3})(\s*-?\s*(?:w|wrms|watts?|vatios?)\b)";
    /// Likewise, with so many outputs behind it and no unit.
    BARE_THOUSANDS = r"(^|[^\d.,])(\d{1,2}),(\d{3})(\s*x\s*\d{1,2}\b)";
    /// A decimal comma.
    COMMA = r"(\d),(\d)";
    /// A figure that begins with its point.
    NO_NOUGHT = r"(^|[^\d.\w])\.(\d)";
    /// Half an ohm, as a fraction.
    HALF = r"(^|[^\d/.])1/2(\s*-?\s*(?:ohm|ohmio))";
    /// Watts spelled out.
    WATT_WORDS = r"(\d)\s*-?\s*(?:watts?|vatios?|wrms|w\s*rms|w\.|watts?\s*rms)\b";
    /// Kilowatts spelled out.
    KILO_WORDS = r"(\d)\s*(?:kilowatts?|kw)\b";
    /// A multiplication sign in its many shapes.
    TIMES = r"\s*[×✕*]\s*";
    /// A number of times, in words.
    TIMES_WORD = r"(\d)\s*(?:times|mal|veces|vezes)\s*(\d)";
    /// A unit glued to an x: 75wx4.
    GLUED = r"(\d)\s*(w|kw)x\s*(\d)";
    /// The year in the name of a rating condition is no figure.
    CONDITION = r"\b(cea|cta)[- ]?2006(?:[- ]?[a-z])?\b";
    /// Watts per channel, in three letters.
    PER_CHANNEL = r"(\d)\s*wpc\b";
    /// A number of channels, or of ohms, as a word.
    NUMBER_WORD = r"\b(one|two|both|three|four|five|six|eight|ein|einen|zwei|beide|drei|vier|funf|sechs|acht|un|dos|ambos|tres|cuatro|cinco|seis|ocho|um|dois|quatro|oito)(\s+(?:channels?|outputs?|kanalen?|kanale|canales|canais|canal|salidas|saidas|ohms?|ohmios?)\b)";
    /// Blanks in a row.
    SPACES = r"[ ]+";
}

const fn number_of(word: &str) -> &'static str {
    match word.as_bytes() {
        b"one" | b"ein" | b"einen" | b"un" | b"um" => "1",
        b"three" | b"drei" | b"tres" => "3",
        b"four" | b"vier" | b"cuatro" | b"quatro" => "4",
        b"five" | b"funf" | b"cinco" => "5",
        b"six" | b"sechs" | b"seis" => "6",
        b"eight" | b"acht" | b"ocho" | b"oito" => "8",
        _ => "2",
    }
}

/// The line made plain.
pub fn plain(line: &str) -> String {
    let mut text = String::with_capacity(line.len());
    for c in line.to_lowercase().chars() {
        match c {
            'ω' | 'Ω' | '\u{2126}' => text.push_str(" ohm "),
            'ä' | 'á' | 'à' | 'ã' | 'â' => text.push('a'),
            'ö' | 'ó' | 'õ' | 'ô' => text.push('o'),
            'ü' | 'ú' => text.push('u'),
            'é' | 'ê' => text.push('e'),
            'í' => text.push('i'),
            'ç' => text.push('c'),
            'ñ' => text.push('n'),
            'ß' => text.push_str("ss"),
            '½' => text.push_str("0.5"),
            '¼' => text.push_str("0.25"),
            '’' => text.push('\''),
            '″' | '”' | '“' => text.push('"'),
            '•' | '●' | '·' | '▪' => text.push(';'),
            '\u{a0}' | '\u{202f}' | '\u{2009}' => text.push(' '),
            '≤' | '<' | '=' | '≥' | '>' | '≈' => text.push(' '),
            other => text.push(other),
        }
    }
    // A tab parts the cells of a table, as a bar does.
    let text = text.replace('\t', " | ");
    let text = TIMES.replace_all(&text, " x ");
    let text = TIMES_WORD.replace_all(&text, "$1 x $2");
    let text = CONDITION.replace_all(&text, "$1");
    let text = HALF.replace_all(&text, "${1}0.5$2");
    let text = NO_NOUGHT.replace_all(&text, "${1}0.$2");
    let text = THOUSANDS.replace_all(&text, "$1$2$3$4");
    let text = BARE_THOUSANDS.replace_all(&text, "$1$2$3$4");
    let text = COMMA.replace_all(&text, "$1.$2");
    let text = NUMBER_WORD.replace_all(&text, |found: &regex::Captures| format!("{}{}", number_of(&found[1]), &found[2]));
    let text = PER_CHANNEL.replace_all(&text, "$1 w per channel");
    let text = WATT_WORDS
        .replace_all(&text, |found: &regex::Captures| format!("{} w{} ", &found[1], if found[0].contains("rms") { " rms" } else { "" }));
    let text = KILO_WORDS.replace_all(&text, "$1 kw ");
    let text = GLUED.replace_all(&text, "$1 $2 x $3");
    SPACES.replace_all(&text, " ").trim().to_owned()
}

/// Lines of a text, those joined that were only broken for width: what ends in a preposition or a comma goes on below.
pub fn lines(text: &str) -> Vec<String> {
    let mut joined = Vec::<String>::new();
    let mut open = false;
    for line in text.lines().map(str::trim) {
        match joined.last_mut() {
            Some(last) if open && !line.is_empty() => {
                last.push(' ');
                last.push_str(line);
            }
            _ => joined.push(line.to_owned()),
        }
        open = goes_on(line);
    }
    joined
}

fn goes_on(line: &str) -> bool {
    const OPEN: [&str; 18] =
        ["at", "into", "@", "x", "×", "and", "or", "an", "bei", "und", "oder", "em", "en", "y", "ou", "of", "per", "with"];
    let last = line.split_whitespace().last().unwrap_or("");
    OPEN.contains(&last.to_lowercase().as_str()) && line.split_whitespace().count() > 1
}
