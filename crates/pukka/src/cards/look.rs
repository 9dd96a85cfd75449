//! Shapes and themes.

use serde::{Deserialize, Serialize};

/// Shape of a card.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, utoipa::ToSchema, clap::ValueEnum)]
pub enum Shape {
    /// Sixteen to nine.
    #[default]
    #[serde(rename = "16x9")]
    #[value(name = "16x9")]
    Wide,
    /// Square.
    #[serde(rename = "1x1")]
    #[value(name = "1x1")]
    Square,
    /// Nine to sixteen.
    #[serde(rename = "9x16")]
    #[value(name = "9x16")]
    Tall,
}

impl Shape {
    /// Width and height in the units it is drawn in: the shorter side has 1080.
    #[must_use]
    pub const fn size(self) -> (f64, f64) {
        match self {
            Self::Wide => (1_920.0, 1_080.0),
            Self::Square => (1_080.0, 1_080.0),
            Self::Tall => (1_080.0, 1_920.0),
        }
    }
}

/// Theme of a card.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, utoipa::ToSchema, clap::ValueEnum)]
#[serde(rename_all = "kebab-case")]
pub enum Theme {
    /// Dark on light.
    #[default]
    Light,
    /// Light on dark.
    Dark,
    /// Light on a dark panel, nothing around it: to lie over a picture.
    Clear,
}

impl Theme {
    pub(super) const fn paint(self) -> &'static Paint {
        match self {
            Self::Light => &LIGHT,
            Self::Dark | Self::Clear => &DARK,
        }
    }
}

/// Colours of a theme, those of the program's own pages.
pub(super) struct Paint {
    pub paper: &'static str,
    pub ink: &'static str,
    pub quiet: &'static str,
    pub hair: &'static str,
    pub proved: &'static str,
    pub hatch_dark: &'static str,
    pub hatch_light: &'static str,
    pub false_: &'static str,
    pub doubt: &'static str,
}

const LIGHT: Paint = Paint {
    paper: "#f7faf5",
    ink: "#15231f",
    quiet: "#4c5c57",
    hair: "#d9e2da",
    proved: "#0b6157",
    hatch_dark: "#3f5b55",
    hatch_light: "#b7c8c0",
    false_: "#a3201b",
    doubt: "#8a5a00",
};

const DARK: Paint = Paint {
    paper: "#17211e",
    ink: "#f1f5ef",
    quiet: "#b9c7c0",
    hair: "#33423d",
    proved: "#4fb8a4",
    hatch_dark: "#7d9d94",
    hatch_light: "#42564f",
    false_: "#ff9a8d",
    doubt: "#f0c05e",
};
