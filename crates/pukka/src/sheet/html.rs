//! The sheet as one HTML page: no script, nothing fetched, the faces and the charts in it.

use base64::Engine as _;
use base64::engine::general_purpose::STANDARD;
use maud::{DOCTYPE, Markup, PreEscaped, html};
use pukka_core::kernel::working::source;
use pukka_core::report::ClaimRow;
use pukka_core::report::sheet::{CitedFigure, ClaimFigures, Note, NoteEntry, Sheet, SheetRow};

use super::photos::{SheetPhoto, figures};
use super::traces::{SheetTrace, waves};
use crate::assets;
use crate::draw::bars::{SHEET, bars};

/// Heading beside what was measured.
#[derive(Debug, Clone)]
pub struct Heading {
    /// The day it was made.
    pub made_on: String,
    /// The day its verdict was settled, when it stands so.
    pub settled_on: Option<String>,
    /// Photos that it shows.
    pub photos: Vec<SheetPhoto>,
    /// Captured waves that its runs stand on.
    pub traces: Vec<SheetTrace>,
}

const STYLE: &str = include_str!("style.css");

/// A sheet that is saved by itself takes this along: nothing in it may run or be fetched.
const POLICY: &str = "default-src 'none'; style-src 'unsafe-inline'; font-src data:; img-src data:; base-uri 'none'; form-action 'none'";

/// Faces of the page: family, weights, the beginning of the file's name, and the characters it is for.
const FACES: [(&str, &str, &str, &str); 5] = [
    ("Archivo", "100 900", "archivo-latin-narrow-space", ""),
    ("Archivo", "100 560", "archivo-signs-regular", "U+3A9, U+3BC, U+221A, U+2264, U+2265, U+2192"),
    ("Archivo", "561 900", "archivo-signs-bold", "U+3A9, U+3BC, U+221A, U+2264, U+2265, U+2192"),
    ("Figures", "100 800", "jetbrains-mono-latin", ""),
    ("Figures", "100 800", "jetbrains-mono-greek", "U+370-3FF"),
];

/// The whole page.
#[must_use]
pub fn page(sheet: &Sheet, heading: &Heading) -> String {
    let page = html! {
        (DOCTYPE)
        html lang="en" {
            head {
                meta charset="utf-8";
                meta http-equiv="Content-Security-Policy" content=(POLICY);
                meta name="viewport" content="width=device-width, initial-scale=1";
                title { (sheet.name) ": result sheet" }
                style { (PreEscaped(faces())) (PreEscaped(STYLE)) }
            }
            body {
                main {
                    (head(sheet, heading))
                    @for (row, figures) in sheet.view.rows.iter().zip(&sheet.claims) { (claim(row, figures)) }
                    (legend())
                    (runs(&sheet.rows))
                    (as_read(sheet))
                    (told(sheet))
                    (facts(sheet))
                    (waves(&heading.traces))
                    (figures(&heading.photos))
                    (notes(sheet))
                }
            }
        }
    };
    // A sign stays with its figure.
    page.into_string().replace("± ", "±\u{a0}")
}

fn faces() -> String {
    let face = |(family, weight, file, range): &(&str, &str, &str, &str)| {
        let data = STANDARD.encode(assets::face(file)?);
        let range = if range.is_empty() { String::new() } else { format!("unicode-range:{range};") };
        let stretch = if *file == "archivo-latin-narrow-space" { "font-stretch:62% 125%;" } else { "" };
        Some(format!(
            "@font-face{{font-family:{family};font-weight:{weight};{stretch}{range}src:url(data:font/woff2;base64,{data}) format(\"woff2\")}}\n"
        ))
    };
    FACES.iter().filter_map(face).collect()
}

fn head(sheet: &Sheet, heading: &Heading) -> Markup {
    let view = &sheet.view;
    let settled = heading.settled_on.as_ref().map_or_else(|| "not locked".to_owned(), |on| format!("locked on {on}"));
    html! {
        header { h1 { (sheet.name) } p { (sheet.subtitle) } }
        p class="word" {
            b { (view.overall_word) } " " (view.tested) @if view.provisional { ", provisional" }
            " · " (settled) " · rules version " (sheet.rules_version) " · made " (heading.made_on)
        }
        h2 { @for phrase in &view.heading { (phrase.text) } }
        @if !view.phrases.is_empty() { p class="detail" { @for phrase in &view.phrases { (phrase.text) } } }
        p class="basis" { (view.basis) }
    }
}

/// The number of a note, in brackets on the line: above it, it would be read as a power.
fn mark(note: impl std::fmt::Display) -> Markup {
    html! { span class="cite" { "[" (note) "]" } }
}

/// A figure with the number of its note.
fn cited(cited: &CitedFigure, unit: bool) -> Markup {
    let figure = &cited.figure;
    html! {
        span class="num" {
            (figure.text)
            @if unit { i { "\u{202f}" (figure.unit) } }
            @if let Some(u) = &figure.plus_minus { " " i { "± " (u) } }
        }
        (mark(cited.note))
    }
}

fn claim(row: &ClaimRow, figures: &ClaimFigures) -> Markup {
    html! {
        section class="claim" {
            div { b { (row.load) } @for line in &row.under { small { (line) } } }
            div class="bars" {
                (bars(row, SHEET))
                @for bar in &row.bars {
                    @let at = format!("left:calc({:.2}% + 5px);top:{}px", bar.label_fraction * 100.0, SHEET.top(bar.track));
                    span class="num label" style=(at) { (bar.total.text) @if let Some(burst) = &bar.burst { " " i { (burst) } } }
                }
            }
            div {
                b { (row.outcome_words) }
                @if let Some(figure) = &figures.as_read { small { (cited(figure, true)) " as read" } }
                @match figures.at_reference.as_slice() {
                    [] => {}
                    [only] => { small { (cited(only, true)) " at " (row.reference) } }
                    [low, high, ..] => { small { (cited(low, false)) " to " (cited(high, true)) " at " (row.reference) } }
                }
                @for remark in &row.remarks { small { (remark) } }
            }
        }
    }
}

fn legend() -> Markup {
    html! {
        p class="legend" {
            i class="certified" {} "certified " i class="clipping" {} "clipping " i class="dynamic" {}
            "dynamic burst · the upright mark is the claim, the band before it what still holds within ±"
        }
    }
}

/// A column of the table that no run fills is left out.
type Column = (&'static str, fn(&SheetRow) -> Markup);

const COLUMNS: [Column; 9] = [
    ("Power", |row| figure(row.power.as_ref())),
    ("Of claim", |row| figure(row.of_claim.as_ref())),
    ("Distortion", |row| html! { (row.distortion) }),
    ("At rest", |row| html! { (row.rest_v) }),
    ("Under load", |row| html! { (row.end_v) }),
    ("Draw", |row| html! { (row.current) }),
    ("Efficiency", |row| figure(row.efficiency.as_ref())),
    ("Heatsink", |row| html! { (row.temperature) }),
    ("", |row| remark(&row.remark)),
];

fn figure(shown: Option<&CitedFigure>) -> Markup {
    html! { @if let Some(shown) = shown { (cited(shown, true)) } }
}

fn remark(text: &str) -> Markup {
    html! { @if !text.is_empty() { span class="remark" { (text) } } }
}

fn runs(rows: &[SheetRow]) -> Markup {
    let Some(first) = rows.first() else { return Markup::default() };
    // One wiring and tone for all is said once, above the table.
    let common = rows.iter().all(|row| row.words == first.words);
    let filled: Vec<&Column> = COLUMNS.iter().filter(|(_, cell)| rows.iter().any(|row| !cell(row).0.is_empty())).collect();
    html! {
        table {
            caption { "Every run" @if common { ", " (first.words) } }
            thead {
                tr {
                    th scope="col" { "Load" }
                    th scope="col" { "Mode" }
                    @for (name, _) in &filled { th scope="col" { (name) } }
                }
            }
            tbody {
                @for (n, row) in rows.iter().enumerate() {
                    @if row.beyond && (n == 0 || !rows[n - 1].beyond) {
                        tr class="beyond" {
                            th colspan=(filled.len() + 2) scope="rowgroup" { "Beyond its rating: below the lowest load its maker rates" }
                        }
                    }
                    tr {
                        td { span class="num" { (row.load) } @if !common { " " (remark(&row.words)) } }
                        td { (row.mode_words) }
                        @for (_, cell) in &filled { td class="num" { (cell(row)) } }
                    }
                }
            }
        }
    }
}

/// Readings of runs that have more of them than the table shows.
fn as_read(sheet: &Sheet) -> Markup {
    html! {
        @if !sheet.as_read.is_empty() {
            section class="as-read" {
                h3 { "As it was read" }
                div class="two" { @for run in &sheet.as_read { p { b { (run.place) } " " (run.lines.join(" · ")) } } }
            }
        }
    }
}

fn told(sheet: &Sheet) -> Markup {
    html! {
        @if !sheet.told.is_empty() {
            section {
                h3 { "What to know" }
                ul class="two" { @for told in &sheet.told { li { (told.says) (mark(told.note)) } } }
            }
        }
    }
}

fn list(title: &str, lines: &[String]) -> Markup {
    html! { @if !lines.is_empty() { div { h3 { (title) } @for line in lines { p { (line) } } } } }
}

fn facts(sheet: &Sheet) -> Markup {
    html! {
        section class="two small" {
            div {
                h3 { "How it was measured" }
                @for fact in &sheet.facts { p { b { (fact.what) } " " (fact.says) } }
            }
            @if !sheet.record.is_empty() {
                div {
                    h3 { "The amplifier" }
                    @for noted in &sheet.record { p { b { (noted.what) } " " (noted.says) } }
                }
            }
            (list("Checks and readings that were settled", &sheet.settled))
            (list("Checks that stand open", &sheet.open))
        }
    }
}

fn notes(sheet: &Sheet) -> Markup {
    html! {
        section class="two notes" {
            h3 { "How each figure was made" }
            @for one in &sheet.notes { (note(one)) }
            (list("What was assumed", &sheet.assumptions))
            p { i { "Where no source is named: " (source::METHOD) ", version " (sheet.rules_version) " of the rules." } }
        }
    }
}

fn note(note: &Note) -> Markup {
    html! {
        p {
            b { (note.title) } " " span class="num" { (note.formula) } " "
            i { (note.symbols) "." @if note.source != source::METHOD { " " (note.source) "." } } " "
            @for (i, made) in note.entries.iter().enumerate() { @if i > 0 { "; " } (entry(made)) }
        }
    }
}

fn entry(made: &NoteEntry) -> Markup {
    let from: Vec<String> = made.from.iter().map(usize::to_string).collect();
    html! {
        b { (made.number) }
        @if let Some(result) = &made.result { " = " (result) }
        ": " (made.inputs)
        @if !from.is_empty() { ", from " (from.join(", ")) }
        @if !made.assumptions.is_empty() { " [" (made.assumptions.join("\u{202f}")) "]" }
    }
}

#[cfg(test)]
mod tests {
    use pukka_core::record::session::examples::mono_1100;
    use pukka_core::report::sheet::sheet;

    use super::*;

    fn heading() -> Heading {
        Heading { made_on: "2026-11-26".into(), settled_on: None, photos: Vec::new(), traces: Vec::new() }
    }

    #[test]
    fn it_needs_nothing_else_and_runs_nothing() {
        let html = page(&sheet(&mono_1100()), &heading());
        for outside in ["<script", "http://", "https://", "<link", "@import", "src=\"", "onload", "javascript:"] {
            assert!(!html.contains(outside), "{outside}");
        }
        assert!(html.contains("Tolland &amp; Pike Mono 1100") && html.contains("Rated at 14.4"));
    }

    #[test]
    fn whatever_was_typed_stays_text() {
        let mut session = mono_1100();
        session.amplifier.model = "<img src=x onerror=alert(1)>".into();
        session.runs[0].note = Some("\"></td><script>1</script>".into());
        session.claims[0].setting = Some("<b>".into());
        let html = page(&sheet(&session), &heading());
        assert!(!html.contains("<img") && !html.contains("<script") && html.contains("&lt;img src=x"), "nothing of it is markup");
    }

    #[test]
    fn every_number_that_is_cited_has_its_note() {
        let html = page(&sheet(&mono_1100()), &heading());
        let cited: std::collections::BTreeSet<&str> =
            html.split("<span class=\"cite\">[").skip(1).filter_map(|rest| rest.split("]</span>").next()).collect();
        assert!(cited.len() > 10, "{cited:?}");
        for number in cited {
            assert!(html.contains(&format!("<b>{number}</b> = ")), "note {number} is missing");
        }
    }

    #[test]
    fn runs_below_the_rated_loads_stand_apart() {
        let mut session = mono_1100();
        assert!(!page(&sheet(&session), &heading()).contains("Beyond its rating"));
        session.runs[0].load_nominal_ohm = pukka_core::kernel::units::Ohms::new(0.5).unwrap();
        let html = page(&sheet(&session), &heading());
        let (apart, below) = (html.find("Beyond its rating").unwrap(), html.rfind("0.5\u{202f}Ω").unwrap());
        assert_eq!(html.matches("Beyond its rating").count(), 1);
        assert!(apart < below && html[apart..].matches("<tr>").count() == 1, "the one run, and behind all others");
    }

    #[test]
    fn an_empty_session_has_a_sheet_too() {
        let mut session = mono_1100();
        session.runs.clear();
        session.claims.clear();
        assert!(page(&sheet(&session), &heading()).contains("No claims and no runs yet."));
    }
}
