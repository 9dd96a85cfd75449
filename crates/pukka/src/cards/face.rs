//! The shipped faces: which of them has a letter, and how wide a text is.
//!
//! A renderer that misses one letter sets the whole run in another face. So a text is cut where the face changes, and each piece names
//! a face that has all of it.

use std::sync::LazyLock;

use ttf_parser::Face;

const REGULAR: &[u8] = include_bytes!("../../fonts/Archivo_400Regular.ttf");
const BOLD: &[u8] = include_bytes!("../../fonts/Archivo_700Bold.ttf");
const MONO: &[u8] = include_bytes!("../../fonts/JetBrainsMono_500Medium.ttf");

/// The files, for the renderer.
pub const FILES: [&[u8]; 3] = [REGULAR, BOLD, MONO];

/// A face of the cards.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Font {
    Regular,
    Bold,
    /// Figures.
    Mono,
}

struct Faces {
    regular: Face<'static>,
    bold: Face<'static>,
    mono: Face<'static>,
}

static FACES: LazyLock<Option<Faces>> = LazyLock::new(|| {
    let of = |bytes| Face::parse(bytes, 0).ok();
    Some(Faces { regular: of(REGULAR)?, bold: of(BOLD)?, mono: of(MONO)? })
});

impl Font {
    fn face(self) -> Option<&'static Face<'static>> {
        let faces = FACES.as_ref()?;
        Some(match self {
            Self::Regular => &faces.regular,
            Self::Bold => &faces.bold,
            Self::Mono => &faces.mono,
        })
    }

    /// As SVG names it.
    pub const fn css(self) -> &'static str {
        match self {
            Self::Regular => "font-family=\"Archivo\" font-weight=\"400\"",
            Self::Bold => "font-family=\"Archivo\" font-weight=\"700\"",
            Self::Mono => "font-family=\"JetBrains Mono\" font-weight=\"500\"",
        }
    }

    pub fn has(self, c: char) -> bool {
        self.face().is_some_and(|face| face.glyph_index(c).is_some())
    }

    /// Width of a letter at a size of 1.
    fn advance(self, c: char) -> f64 {
        let Some(face) = self.face() else { return 0.6 };
        let units = face.glyph_index(c).and_then(|glyph| face.glyph_hor_advance(glyph));
        units.map_or(0.6, |units| f64::from(units) / f64::from(face.units_per_em()))
    }

    /// The face for a letter: this one, else another that has it.
    fn for_letter(self, c: char) -> Self {
        if self.has(c) {
            return self;
        }
        [Self::Mono, Self::Regular].into_iter().find(|other| other.has(c)).unwrap_or(self)
    }
}

/// A text without the spaces and signs that no shipped face has: narrow spaces are set as plain ones.
pub fn settable(text: &str) -> String {
    text.chars().map(|c| if matches!(c, '\u{202f}' | '\u{a0}' | '\u{2009}') { ' ' } else { c }).collect()
}

/// The pieces of a text, each with a face that has all of it.
pub fn pieces(font: Font, text: &str) -> Vec<(Font, String)> {
    let mut pieces: Vec<(Font, String)> = Vec::new();
    for c in settable(text).chars() {
        let face = font.for_letter(c);
        match pieces.last_mut().filter(|(last, _)| *last == face) {
            Some((_, piece)) => piece.push(c),
            None => pieces.push((face, c.to_string())),
        }
    }
    pieces
}

/// Width of a text.
pub fn width(font: Font, text: &str, size: f64) -> f64 {
    settable(text).chars().map(|c| font.for_letter(c).advance(c)).sum::<f64>() * size
}
