use clap::ValueEnum as _;
use pukka_core::record::session::examples::mono_1100;
use pukka_core::report::sheet::sheet;

use super::canvas::LEAST;
use super::*;

fn all(style: Style) -> Vec<Card> {
    let session = mono_1100();
    let sheet = sheet(&session);
    cards(Subject { session: &session, sheet: &sheet, is_locked: false, by: &Signature::default() }, style)
}

fn styles() -> Vec<Style> {
    let shapes = Shape::value_variants().iter().copied();
    shapes.flat_map(|shape| Theme::value_variants().iter().map(move |&theme| Style { shape, theme, lines: 1_080 })).collect()
}

#[test]
fn every_card_in_every_shape_and_theme_says_that_it_is_not_locked_and_is_the_same_again() {
    for style in styles() {
        let made = all(style);
        let names: Vec<&str> = made.iter().map(|card| card.name.as_str()).collect();
        assert!(
            names.iter().any(|name| name.starts_with("verdict")) && names.contains(&"load-4") && names.contains(&"efficiency"),
            "{names:?}"
        );
        assert_eq!(names.iter().collect::<std::collections::BTreeSet<_>>().len(), names.len(), "no two of one name: {names:?}");
        for card in &made {
            assert!(card.svg.contains("Not locked"), "{}", card.name);
            assert!(card.alt.contains("Tolland &") && card.alt.ends_with('.'), "{}", card.alt);
        }
        assert_eq!(made, all(style));
    }
}

#[test]
fn no_type_is_too_small_to_read_on_a_phone_and_nothing_leaves_the_card() {
    let size = regex::Regex::new("<text x=\"([0-9.-]+)\" y=\"([0-9.-]+)\"[^>]*font-size=\"([0-9.]+)\"").unwrap();
    for style in styles() {
        let (width, height) = style.shape.size();
        assert!(LEAST >= 0.024 * width.min(height));
        for card in all(style) {
            for found in size.captures_iter(&card.svg) {
                let [x, y, size] = [1, 2, 3].map(|n| found[n].parse::<f64>().unwrap());
                assert!(size >= LEAST - 0.05, "{}: {size}", card.name);
                assert!((0.0..width).contains(&x) && (size * 0.7..height).contains(&y), "{}: {x}, {y}", card.name);
            }
        }
    }
}

#[test]
fn every_letter_is_in_the_face_that_it_is_set_in() {
    let text = regex::Regex::new("font-family=\"([^\"]+)\" font-weight=\"([0-9]+)\"[^>]*>([^<]*)</text>").unwrap();
    let mut letters = 0;
    for card in styles().into_iter().flat_map(all) {
        for found in text.captures_iter(&card.svg) {
            let font = match (&found[1], &found[2]) {
                ("Archivo", "400") => face::Font::Regular,
                ("Archivo", _) => face::Font::Bold,
                _ => face::Font::Mono,
            };
            let words = found[3].replace("&amp;", "&").replace("&lt;", "<").replace("&gt;", ">");
            for c in words.chars() {
                assert!(font.has(c), "{}: {c:?} of {words:?} in {font:?}", card.name);
                letters += 1;
            }
        }
    }
    assert!(letters > 1_000);
    assert!(face::pieces(face::Font::Regular, "4 Ω, η").len() > 1, "a letter that a face has not is set in another");
}

#[test]
fn a_picture_is_the_same_bytes_twice_and_as_large_as_asked() {
    let style = Style { shape: Shape::Wide, theme: Theme::Clear, lines: 1_080 };
    let verdict = all(style).into_iter().next().unwrap();
    let bytes = png(&verdict.svg).unwrap();
    assert_eq!(bytes, png(&verdict.svg).unwrap());
    let picture = image::load_from_memory(&bytes).unwrap().to_rgba8();
    assert_eq!(picture.dimensions(), (1_920, 1_080));
    assert_eq!(picture.get_pixel(2, 2).0[3], 0, "nothing around the panel");
    assert!(picture.pixels().filter(|pixel| pixel.0[3] > 0 && pixel.0[0] > 200).count() > 5_000, "and letters on it");
}

#[test]
fn a_long_table_is_split_and_a_name_that_is_too_long_is_cut() {
    let mut session = mono_1100();
    session.amplifier.model = "Thunderous ".repeat(20);
    let runs = session.runs.clone();
    for n in 0..6 {
        session.runs.extend(runs.iter().cloned().map(|mut run| {
            run.id = format!("{}-{n}", run.id);
            run.setting = Some(format!("setting {n}"));
            run
        }));
    }
    let sheet = sheet(&session);
    let style = Style { shape: Shape::Square, theme: Theme::Light, lines: 1_080 };
    let made = cards(Subject { session: &session, sheet: &sheet, is_locked: true, by: &Signature::default() }, style);
    assert!(made.iter().any(|card| card.name == "table-2"), "{:?}", made.iter().map(|card| &card.name).collect::<Vec<_>>());
    assert!(made[0].svg.contains('…') && !made[0].svg.contains("Not locked"));
}

#[test]
fn an_outlined_card_has_no_letters_left_and_draws_the_same() {
    let verdict = all(Style { shape: Shape::Wide, theme: Theme::Light, lines: 1_080 }).into_iter().next().unwrap();
    let outlines = outlined(&verdict).unwrap();
    assert!(!outlines.contains("<text") && outlines.contains("<title>Tolland &amp; Pike Mono 1100"));
    let pixels = |svg: &str| image::load_from_memory(&png(svg).unwrap()).unwrap().to_rgb8().into_raw();
    let (one, other) = (pixels(&verdict.svg), pixels(&outlines));
    let off = one.iter().zip(&other).filter(|(a, b)| a.abs_diff(**b) > 24).count();
    assert!(off * 1_000 < one.len(), "{off} of {} samples differ", one.len());
}
