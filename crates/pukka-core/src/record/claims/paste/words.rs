//! The words of four languages, and the patterns they are found by, on a line made plain.

pub(super) fn pattern(text: &str) -> regex::Regex {
    regex::Regex::new(text).unwrap_or_else(|error| unreachable!("a pattern is wrong: {error}"))
}

macro_rules! patterns {
    ($($(#[$doc:meta])* $name:ident = $text:expr;)*) => {
        $($(#[$doc])* pub static $name: std::sync::LazyLock<regex::Regex> =
            std::sync::LazyLock::new(|| super::words::pattern($text));)*
    };
}
pub(super) use patterns;

/// Channels, in the four languages.
macro_rules! channel_words {
    () => {
        r"(?:channels?|chan|ch|outputs?|kanalen?|kanale|kanal|kanaele|canales|canais|canal|salidas?|saidas?)"
    };
}
/// A spelling of ohms.
macro_rules! ohm {
    () => {
        r"\s*-?\s*(?:ohms?|ohmios?|ohmes)\b"
    };
}

patterns! {
    /// Ohms, one figure.
    OHMS = concat!(r"\b(\d+(?:\.\d+)?)", ohm!());
    /// `4/2 ohm`, `4 / 2 / 1 ohm`, `4, 2 and 1 ohm`: several loads that share a unit.
    OHM_LIST = concat!(
        r"\b(\d+(?:\.\d+)?(?:,\s\d+(?:\.\d+)?)*(?:\s*,?\s*(?:/|\bor\b|\boder\b|\bo\b|\bou\b|\bund\b|\band\b|\by\b|\be\b|&)\s*\d+(?:\.\d+)?)+)", ohm!());
    /// From one load to another: no load of a claim.
    OHM_RANGE = concat!(r"\b\d+(?:\.\d+)?\s*(?:-|–|to|bis|a|ate|hasta)\s*\d+(?:\.\d+)?", ohm!());
    /// `2 x 75 w`, `2 channels x 75 w`, `4 x 75/110 w`.
    TIMES_WATTS = concat!(r"\b(\d{1,2})\s*", channel_words!(), r"?\s*x\s*(\d+(?:\.\d+)?(?:\s*/\s*\d+(?:\.\d+)?)*)\s*(kw|w)\b");
    /// `75 w x 4`, `75/110 w rms x 4 channels`.
    WATTS_TIMES = r"\b(\d+(?:\.\d+)?(?:\s*/\s*\d+(?:\.\d+)?)*)\s*(kw|w)\s*\(?\s*(?:rms|max|peak|cont\w*|each|sinus|/\s*ch\w*|per ch\w*)?\s*\)?\.?\s*x\s*(\d{1,2})\b";
    /// Watts alone, one figure or several that share a unit.
    WATTS = r"\b(\d+(?:\.\d+)?(?:\s*/\s*\d+(?:\.\d+)?)*)\s*(kw|w)\b";
    /// Watts that may be glued to what stands before them, as no figure is.
    ANY_WATTS = r"\d\s*(?:kw|w)\b";
    /// `300, 500 and 800 w`: several figures that share a unit.
    WATT_LIST = r"\b(\d+(?:\.\d+)?(?:,\s\d+(?:\.\d+)?)*\s*,?\s*(?:\bor\b|\boder\b|\bo\b|\bou\b|\bund\b|\band\b|\by\b|\be\b|&)\s*\d+(?:\.\d+)?)\s*(kw|w)\b";
    /// `75 x 4`: no unit; what stands round it tells whether it can be power.
    BARE_TIMES = r"\b(\d+(?:\.\d+)?)\s*(?:rms\s*)?x\s*(\d+(?:\.\d+)?)\b";
    /// `110 at 2 ohm`: no unit, beside figures that have one.
    BARE_AT = concat!(r"\b(\d+(?:\.\d+)?)\s*(?:rms\s*)?(?:@|at|into|an|bei|a|em|en|in)\s*\d+(?:\.\d+)?", ohm!());
    /// Text that may not follow a figure without a unit, if it is to be power.
    OTHER_UNIT = r#"^\s*(?:x\b|x\s*\d|mm|cm|in\b|inch|"|'|amps?\b|a\b|awg|gauge|ga\b|vdc|volts?|v\b|k?hz|kg|lbs?|db|%|m\b|ft\b|ohm|ohmio|mv)"#;
    /// A supply voltage.
    VOLTS = r"\b(\d+(?:\.\d+)?)\s*(?:vdc|volts?|voltios?|v)\b";
    /// A percentage.
    PERCENT = r"(\d+(?:\.\d+)?)\s*(?:%|percent\b|per cent\b|prozent\b|por ciento\b|por cento\b)";
    /// A tone.
    TONE = r"\b(\d+(?:\.\d+)?)\s*(khz|hz)\b";
    /// From a tone to a tone: a response, not a test tone.
    RANGE = r"\d\s*(?:hz|khz)?\s*(?:-|–|to|bis|a|ate|hasta)\s*\d+(?:\.\d+)?\s*(?:hz|khz)";
    /// Number of channels.
    CHANNELS = concat!(r"\b(\d{1,2})\s*-?\s*", channel_words!(), r"\b");
    /// Max, peak and what else is no rating.
    MAX = r"\b(?:max|maxima|maximo|maximum|maximale?|maximalleistung|peak|up to|spitzen?\w*|impuls\w*|musik\w*|pmpo|pico|bis zu|hasta|ate|dynamic|dynamisch|dinamica|burst|instantanea|total power handling)\b";
    /// Continuous.
    RMS = r"\b(?:rms|continuous\w*|continua|continuo|sinus\w*|dauer\w*|nennleistung|nominal\w*|nominale|cea|cta|rated|eficaz|efectiva|real)\b";
    /// Bridged.
    BRIDGED = r"\b(?:bridged?|bridgeable|bridging|btl|gebruckt\w*|bruck\w*|puente\w*|puenteado|ponte|bridgeado)\b";
    /// Said that nothing is joined.
    UNBRIDGED = r"\b(?:single|einzeln|sencillo|unbridged|not bridged|non-?bridged|ungebruckt\w*|nicht gebruckt|sin puente(?:ar)?|sem ponte)\b";
    /// Two amplifiers on one load.
    STRAPPED = r"\b(?:strapp?ed|strapping|strappable|linked|two (?:amps?|amplifiers|units)|2 (?:amps?|amplifiers|units)|pair of (?:amps|amplifiers)|(?:zwei|2) (?:endstufen|verstarker)|gekoppelt\w*|(?:dos|2) amplificadores|(?:dois|2) (?:amplificadores|modulos)|acoplad[oa]s)\b";
    /// Mono.
    MONO = r"\b(?:mono|monoblock|monobloque|monobloco|monoblocco)\b";
    /// Stereo.
    STEREO = r"\b(?:stereo|estereo)\b";
    /// Of each channel.
    EACH = r"(?:\bper\s*(?:ch\w*|output|side)\b|/\s*ch\w*\b|\b(?:pro|je)\s*(?:kanal|ausgang)\b|\bpor\s*(?:canal|salida|saida)\b|\bcada\s*canal\b|\beach\b|\bpc\b|\bw?pc\b)";
    /// Of all together.
    TOTAL = r"\b(?:total|gesamt\w*|insgesamt|combined|totales|totais)\b";
    /// Of every line before it.
    ALL = r"\b(?:all|both|alle|beide|jeweils|todos?|todas?|ambos|ambas)\b";
    /// Watts that are no output power.
    OTHER_POWER = r"\b(?:consum\w*|leistungsaufnahme|verbrauch\w*|consumo|draw|draws|standby|idle|ruhe\w*|power handling|belastbarkeit|heater|solar|subwoofers?\s*(?:rating|:)|(?:speaker|lautsprecher\w*|altavoz|alto-?falante)s?\s*(?:power|rating|:|max))";
    /// Percentages that are no distortion.
    OTHER_PERCENT = r"\b(?:efficien\w*|wirkungsgrad|rendimiento|eficiencia|rendimento|duty|humidity|zinc|discount|off)\b";
    /// Words that say a line speaks of power, for headings.
    POWER = r"\b(?:power|output|leistung\w*|ausgangsleistung\w*|potencia|salida|saida|w|rms|rating\w*|spec\w*)\b";
    /// Ends a sentence: a stop behind a word, a figure or a bracket, that ends no short form.
    SENTENCE = r"(\S+?)([.!?])\s+";
    /// Short forms that end in a stop.
    SHORT_FORM = r"^\(?(?:max|min|ca|approx|nom|cont|resp|bzw|inkl|incl|typ|imp|amp|aprox|pot|no|nr|vs|z\.b|ch|w)$";
    /// Separators of the claims of one sentence.
    PART = r",\s|,$|\||\(|/|\+|\b(?:and|or|und|oder|y|e|ou|o|&|sowie|plus|as well as)\b|\s&\s";
    /// Distortion with its noise: its plus joins nothing.
    WITH_NOISE = r"thd\s*\+\s*n";
    /// Begins a piece that shares its load with the one before it.
    JOINED = r"^\s*(?:/|&|\+|(?:and|or|und|oder|y|e|o|ou)\b)";
    /// Text that stands in brackets at the end of a line.
    LAST_BRACKET = r"\([^()]*\)\s*\.?$";
    /// A figure.
    FIGURE = r"\d+(?:\.\d+)?";
    /// `x 4`, behind a figure of watts.
    TIMES_COUNT = r"\bx\s*\d{1,2}\b";
    /// A line that only draws a table.
    RULE = r"^[\s|:+=_\-–—]+$";
}
