//! Cards as they were looked at and found good, against cards as they are drawn now. `PUKKA_PICTURES=write` draws the committed
//! ones anew: look at each of them before it is committed.

use std::path::{Path, PathBuf};

use image::{Rgba, RgbaImage};
use pukka::cards::{Card, Shape, Signature, Style, Subject, Theme, cards, png};
use pukka_core::record::session::examples::mono_1100;
use pukka_core::report::sheet::sheet;

/// Small pictures: a shift of the layout shows at any size.
const LINES: u32 = 270;
/// Renderers may differ by a shade at the edges of letters: so much a sample on the average, and so many samples clearly.
const MEAN: f64 = 0.5;
const CLEARLY: u8 = 48;
const SHARE: f64 = 0.0008;

fn folder() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/pictures")
}

/// A mark: a copper ring on nothing.
fn mark() -> Vec<u8> {
    let ring = RgbaImage::from_fn(96, 96, |x, y| {
        let r = (f64::from(x) - 47.5).hypot(f64::from(y) - 47.5);
        if (28.0..46.0).contains(&r) { Rgba([196, 116, 62, 255]) } else { Rgba([0; 4]) }
    });
    let mut png = std::io::Cursor::new(Vec::new());
    ring.write_to(&mut png, image::ImageFormat::Png).unwrap();
    png.into_inner()
}

fn drawn(shape: Shape, theme: Theme) -> Vec<Card> {
    let session = mono_1100();
    let by = Signature { name: "Ferry Lane".into(), mark: Some(mark()) };
    let sheet = sheet(&session);
    cards(Subject { session: &session, sheet: &sheet, is_locked: false, by: &by }, Style { shape, theme, lines: LINES })
}

/// How far two pictures are apart: the mean over all samples, and the share that is clearly another.
fn apart(one: &RgbaImage, other: &RgbaImage) -> (f64, f64) {
    assert_eq!(one.dimensions(), other.dimensions());
    // What is transparent has no colour.
    let seen = |picture: &RgbaImage| -> Vec<u8> {
        picture.pixels().flat_map(|Rgba([r, g, b, a])| [r, g, b].map(|c| (u16::from(*c) * u16::from(*a) / 255) as u8)).collect()
    };
    let off: Vec<u8> = seen(one).iter().zip(seen(other)).map(|(a, b)| a.abs_diff(b)).collect();
    let n = off.len() as f64;
    let clearly = off.iter().filter(|off| **off > CLEARLY).count() as f64;
    (off.iter().map(|off| f64::from(*off)).sum::<f64>() / n, clearly / n)
}

#[test]
fn cards_look_as_they_did_when_they_were_looked_at() {
    let writes = std::env::var("PUKKA_PICTURES").is_ok_and(|word| word == "write");
    let all = [(Shape::Wide, "16x9"), (Shape::Square, "1x1"), (Shape::Tall, "9x16")];
    let mut wanted: Vec<(String, Shape, Theme, &str)> = Vec::new();
    for (shape, word) in all {
        for (theme, name) in [(Theme::Light, "light"), (Theme::Dark, "dark"), (Theme::Clear, "clear")] {
            wanted.push((format!("verdict-{word}-{name}"), shape, theme, "verdict"));
        }
    }
    for name in ["table", "load-4", "efficiency", "run-01-4-ohm-certified"] {
        wanted.push((format!("{name}-16x9-light"), Shape::Wide, Theme::Light, name));
    }
    let mut wrong = Vec::new();
    for (file, shape, theme, name) in wanted {
        let made = drawn(shape, theme);
        let card = made.iter().find(|card| card.name == name || card.name == format!("{name}-1")).unwrap_or_else(|| panic!("{name}"));
        let bytes = png(&card.svg).unwrap();
        let path = folder().join(format!("{file}.png"));
        if writes {
            std::fs::create_dir_all(folder()).unwrap();
            std::fs::write(&path, &bytes).unwrap();
        }
        let now = image::load_from_memory(&bytes).unwrap().to_rgba8();
        let then = image::open(&path).unwrap().to_rgba8();
        let (mean, share) = apart(&now, &then);
        if mean > MEAN || share > SHARE {
            wrong.push(format!("{file}: {mean:.2} on the average, {:.2} % clearly", 100.0 * share));
        }
    }
    assert_eq!(wrong, Vec::<String>::new());
}

#[test]
fn a_shifted_word_and_another_colour_are_found_out() {
    let picture = |theme, by: &str| {
        let session = mono_1100();
        let sheet = sheet(&session);
        let by = Signature { name: by.into(), mark: None };
        let style = Style { shape: Shape::Wide, theme, lines: LINES };
        let made = cards(Subject { session: &session, sheet: &sheet, is_locked: false, by: &by }, style);
        image::load_from_memory(&png(&made[0].svg).unwrap()).unwrap().to_rgba8()
    };
    let found = |(mean, share): (f64, f64)| mean > MEAN || share > SHARE;
    let right = picture(Theme::Light, "Ferry Lane");
    assert!(!found(apart(&right, &picture(Theme::Light, "Ferry Lane"))));
    assert!(found(apart(&right, &picture(Theme::Dark, "Ferry Lane"))));
    assert!(
        found(apart(&right, &picture(Theme::Light, "A very long name"))),
        "{:?}",
        apart(&right, &picture(Theme::Light, "A very long name"))
    );
}
