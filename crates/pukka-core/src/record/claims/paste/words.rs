//! The words of four languages, and the patterns they are found by.

use std::sync::LazyLock;

use regex::Regex;

fn pattern(text: &str) -> Regex {
    Regex::new(text).unwrap_or_else(|error| unreachable!("a pattern is wrong: {error}"))
}

macro_rules! patterns {
    ($($(#[$doc:meta])* $name:ident = $text:expr;)*) => {
        $($(#[$doc])* pub static $name: LazyLock<Regex> = LazyLock::new(|| pattern($text));)*
    };
}

patterns! {
    /// Ohms, in all their spellings, on a line made plain.
    OHMS = r"(\d+(?:\.\d+)?)\s*-?\s*(?:ohms?|ohmios?|ohmes)\b";
    /// `4/2 ohm`, `4 / 2 / 1 ohm`: several loads that share a unit.
    OHM_LIST = r"(\d+(?:\.\d+)?(?:\s*(?:/|or|oder|o|ou|und|and|y|e)\s*\d+(?:\.\d+)?)+)\s*-?\s*(?:ohms?|ohmios?)\b";
    /// `2 x 75 w`, `2x75`.
    TIMES_WATTS = r"\b(\d{1,2})\s*x\s*(\d+(?:\.\d+)?(?:\s*/\s*\d+(?:\.\d+)?)*)\s*(kw|w)\b";
    /// `75 w x 4`, `75 w rms x 4 channels`.
    WATTS_TIMES = r"\b(\d+(?:\.\d+)?)\s*(kw|w)\s*(?:rms|max|cea|cont)?\.?\s*x\s*(\d{1,2})\b";
    /// Watts alone, one figure or several that share a unit.
    WATTS = r"\b(\d+(?:\.\d+)?(?:\s*/\s*\d+(?:\.\d+)?)*)\s*(kw|w)\b";
    /// `75 x 4 @ 4 ohm`: no unit, but what is there can only be power.
    BARE_TIMES = r"\b(\d+(?:\.\d+)?)\s*x\s*(\d+(?:\.\d+)?)\s*(?:@|at|an|bei|a|em|en|into)?\s*\d+(?:\.\d+)?\s*-?\s*ohm";
    /// A supply voltage.
    VOLTS = r"(\d+(?:\.\d+)?)\s*(?:v|vdc|volts?|voltios?)\b";
    /// A percentage.
    PERCENT = r"(\d+(?:\.\d+)?)\s*%";
    /// A tone.
    TONE = r"(\d+(?:\.\d+)?)\s*(khz|hz)\b";
    /// From a tone to a tone: a response, not a test tone.
    RANGE = r"\d\s*(?:hz|khz)?\s*(?:-|–|to|bis|a|até|hasta)\s*\d+(?:\.\d+)?\s*(?:hz|khz)";
    /// How many channels.
    CHANNELS = r"\b(\d{1,2})\s*-?\s*(?:channels?|chan|ch|kanale|kanal|kanaele|canales|canais|canal)\b";
    /// Max, peak and what else is no rating.
    MAX = r"\b(?:max|maxima|maximo|maximum|maximale?|maximalleistung|peak|up to|spitzen?\w*|impuls\w*|musik\w*|pmpo|pico|bis zu|hasta|ate|dynamic|dynamisch|dinamica|burst|instantanea|total power handling)\b";
    /// Continuous.
    RMS = r"\b(?:rms|continuous|continua|continuo|sinus\w*|dauer\w*|nennleistung|nominal\w*|nominale|cea-?2006\w?|cta-?2006\w?|rated|eficaz|efectiva|real)\b";
    /// Bridged.
    BRIDGED = r"\b(?:bridged?|bridgeable|btl|gebruckt\w*|bruck\w*|puente\w*|puenteado|ponte|bridgeado|mono bridged?)\b";
    /// Mono.
    MONO = r"\b(?:mono|monoblock|monobloque|monobloco|monoblocco)\b";
    /// Stereo.
    STEREO = r"\b(?:stereo|estereo|estéreo)\b";
    /// Of each channel.
    EACH = r"(?:\bper\s*(?:ch\w*|output|side)\b|/\s*ch\w*\b|\b(?:pro|je)\s*(?:kanal|ausgang)\b|\bpor\s*(?:canal|salida|saida)\b|\bcada\s*canal\b|\beach\b)";
    /// Of all together.
    TOTAL = r"\b(?:total|gesamt\w*|insgesamt|combined|totales|totais|all channels|alle kanale)\b";
    /// Watts that are no output power.
    OTHER_POWER = r"\b(?:consum\w*|leistungsaufnahme|verbrauch\w*|consumo|draw|standby|idle|ruhe\w*|power handling|belastbarkeit|speaker|lautsprecher\w*|altavoz|alto-?falante|heater|solar)\b";
    /// Percentages that are no distortion.
    OTHER_PERCENT = r"\b(?:efficien\w*|wirkungsgrad|rendimiento|eficiencia|rendimento)\b";
    /// Words that say a line speaks of power, for headings.
    POWER = r"\b(?:power|output|leistung\w*|ausgangsleistung\w*|potencia|salida|saida|watts?|rms|rating\w*|spec\w*)\b";
    /// Thousands in a number with watts behind it: 1,200 W, 1.200 W.
    THOUSANDS = r"\b(\d{1,3})[.,](\d{3})(\s*(?:w|wrms|watts?|vatios?|kw)\b)";
    /// A decimal comma.
    COMMA = r"(\d),(\d)";
    /// Watts spelled out.
    WATT_WORDS = r"(\d)\s*-?\s*(?:watts?|vatios?|wrms|w\s*rms|w\.|watts?\s*rms)\b";
    /// Kilowatts spelled out.
    KILO_WORDS = r"(\d)\s*(?:kilowatts?|kw)\b";
    /// A multiplication sign in its many shapes.
    TIMES = r"\s*[×✕*]\s*";
    /// A unit glued to an x: 75wx4.
    GLUED = r"(\d)\s*(w|kw)x\s*(\d)";
}

/// The line in small letters, accents off, one spelling for each unit, decimal points, thousands joined.
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
            '\u{a0}' | '\u{202f}' | '\u{2009}' | '\t' => text.push(' '),
            '≤' | '<' | '=' => text.push(' '),
            other => text.push(other),
        }
    }
    let text = TIMES.replace_all(&text, " x ");
    let text = THOUSANDS.replace_all(&text, "$1$2$3");
    let text = COMMA.replace_all(&text, "$1.$2");
    let text = WATT_WORDS
        .replace_all(&text, |found: &regex::Captures| format!("{} w{} ", &found[1], if found[0].contains("rms") { " rms" } else { "" }));
    let text = KILO_WORDS.replace_all(&text, "$1 kw ");
    GLUED.replace_all(&text, "$1 $2 x $3").into_owned()
}
