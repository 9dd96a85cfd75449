//! The sheet as one HTML page: no script, nothing fetched, the faces and the charts in it.

use std::fmt::Write as _;

use base64::Engine as _;
use base64::engine::general_purpose::STANDARD;
use pukka_core::kernel::working::source;
use pukka_core::report::ClaimRow;
use pukka_core::report::sheet::{CitedFigure, ClaimFigures, Note, Sheet, SheetRow};

use crate::assets;
use crate::draw::bars::{SHEET, bars};
use crate::draw::escape;

/// What stands over it besides what was measured.
#[derive(Debug, Clone)]
pub struct Heading {
    /// The day it was made.
    pub made_on: String,
    /// The day its verdict was settled, when it stands so.
    pub settled_on: Option<String>,
}

const STYLE: &str = include_str!("style.css");

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
    let name = escape(&sheet.name);
    let mut html = format!(
        "<!doctype html>\n<html lang=\"en\"><head><meta charset=\"utf-8\"><meta name=\"viewport\" content=\"width=device-width, initial-scale=1\"><title>{name}: result sheet</title><style>{}{STYLE}</style></head><body><main>",
        faces()
    );
    head(&mut html, sheet, heading);
    for (row, figures) in sheet.view.rows.iter().zip(&sheet.claims) {
        claim(&mut html, row, figures);
    }
    legend(&mut html);
    runs(&mut html, &sheet.rows);
    told(&mut html, sheet);
    facts(&mut html, sheet);
    notes(&mut html, sheet);
    html.push_str("</main></body></html>\n");
    // A sign stays with its figure.
    html.replace("± ", "±\u{a0}")
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

fn head(html: &mut String, sheet: &Sheet, heading: &Heading) {
    let view = &sheet.view;
    let settled = match &heading.settled_on {
        Some(on) => format!("settled on {}", escape(on)),
        None => "not settled".to_owned(),
    };
    let provisional = if view.provisional { ", provisional" } else { "" };
    let said: String = view.phrases.iter().map(|phrase| escape(&phrase.text)).collect();
    let _ = write!(
        html,
        "<header><h1>{}</h1><p>{}</p></header><p class=\"word\"><b>{}</b> {}{provisional} · {settled} · rules version {} · made {}</p><h2>{said}</h2>",
        escape(&sheet.name),
        escape(&sheet.subtitle),
        escape(&view.overall_word),
        escape(&view.tested),
        sheet.rules_version,
        escape(&heading.made_on),
    );
    let _ = write!(html, "<p class=\"basis\">{}</p>", escape(&view.basis));
}

/// A figure with the number of its note.
fn cited(cited: &CitedFigure, unit: bool) -> String {
    let figure = &cited.figure;
    let unit = if unit { format!("<i>\u{202f}{}</i>", escape(&figure.unit)) } else { String::new() };
    let sure = figure.plus_minus.as_ref().map(|u| format!(" <i>± {}</i>", escape(u))).unwrap_or_default();
    format!("<span class=\"num\">{}{unit}{sure}</span><sup>{}</sup>", escape(&figure.text), cited.note)
}

fn claim(html: &mut String, row: &ClaimRow, figures: &ClaimFigures) {
    let under: String = row.under.iter().map(|line| format!("<small>{}</small>", escape(line))).collect();
    let labels: String = row
        .bars
        .iter()
        .map(|bar| {
            let left = bar.label_fraction * 100.0;
            let (mode, watts) = (bar.mode.word(), escape(&bar.total.text));
            format!("<span class=\"num label {mode}\" style=\"left:calc({left:.2}% + 5px)\">{watts}</span>")
        })
        .collect();
    let as_read = figures.as_read.as_ref().map(|figure| format!("<small>{} as read</small>", cited(figure, true))).unwrap_or_default();
    let at = match figures.at_reference.as_slice() {
        [] => String::new(),
        [only] => format!("<small>{} at {}</small>", cited(only, true), escape(&row.reference)),
        [low, high, ..] => {
            format!("<small>{} to {} at {}</small>", cited(low, false), cited(high, true), escape(&row.reference))
        }
    };
    let remarks: String = row.remarks.iter().map(|remark| format!("<small>{}</small>", escape(remark))).collect();
    let _ = write!(
        html,
        "<section class=\"claim\"><div><b>{}</b>{under}</div><div class=\"bars\">{}{labels}</div><div><b>{}</b>{as_read}{at}{remarks}</div></section>",
        escape(&row.load),
        bars(row, SHEET),
        escape(&row.outcome_words),
    );
}

fn legend(html: &mut String) {
    html.push_str(
        "<p class=\"legend\"><i class=\"certified\"></i>certified <i class=\"clipping\"></i>clipping <i class=\"dynamic\"></i>dynamic burst · the upright mark is the claim, the band before it what still holds within ±</p>",
    );
}

/// A column of the table that no run fills is left out.
type Column = (&'static str, fn(&SheetRow) -> String);

const COLUMNS: [Column; 9] = [
    ("Power", |row| row.power.as_ref().map(|power| cited(power, true)).unwrap_or_default()),
    ("Of claim", |row| row.of_claim.as_ref().map(|percent| cited(percent, true)).unwrap_or_default()),
    ("Distortion", |row| escape(&row.distortion)),
    ("At rest", |row| escape(&row.rest_v)),
    ("Under load", |row| escape(&row.end_v)),
    ("Draw", |row| escape(&row.current)),
    ("Efficiency", |row| row.efficiency.as_ref().map(|figure| cited(figure, true)).unwrap_or_default()),
    ("Heatsink", |row| escape(&row.temperature)),
    ("", |row| remark(&row.remark)),
];

fn remark(text: &str) -> String {
    if text.is_empty() { String::new() } else { format!("<span class=\"remark\">{}</span>", escape(text)) }
}

fn runs(html: &mut String, rows: &[SheetRow]) {
    let Some(first) = rows.first() else { return };
    // One wiring and tone for all is said once, above the table.
    let common = rows.iter().all(|row| row.words == first.words);
    let filled: Vec<&Column> = COLUMNS.iter().filter(|(_, cell)| rows.iter().any(|row| !cell(row).is_empty())).collect();
    let caption = if common { format!("Every run, {}", first.words) } else { "Every run".to_owned() };
    let heads: String = filled.iter().map(|(name, _)| format!("<th scope=\"col\">{name}</th>")).collect();
    let _ = write!(
        html,
        "<table><caption>{}</caption><thead><tr><th scope=\"col\">Load</th><th scope=\"col\">Mode</th>{heads}</tr></thead><tbody>",
        escape(&caption)
    );
    for row in rows {
        let words = if common { String::new() } else { format!(" {}", remark(&row.words)) };
        let cells: String = filled.iter().map(|(_, cell)| format!("<td class=\"num\">{}</td>", cell(row))).collect();
        let _ =
            write!(html, "<tr><td><span class=\"num\">{}</span>{words}</td><td>{}</td>{cells}</tr>", escape(&row.load), row.mode.word());
    }
    html.push_str("</tbody></table>");
}

fn told(html: &mut String, sheet: &Sheet) {
    if sheet.told.is_empty() {
        return;
    }
    let lines: String = sheet.told.iter().map(|told| format!("<li>{}<sup>{}</sup></li>", escape(&told.says), told.note)).collect();
    let _ = write!(html, "<section><h3>What to know</h3><ul class=\"two\">{lines}</ul></section>");
}

fn list(title: &str, lines: &[String]) -> String {
    if lines.is_empty() {
        return String::new();
    }
    let lines: String = lines.iter().map(|line| format!("<p>{}</p>", escape(line))).collect();
    format!("<div><h3>{title}</h3>{lines}</div>")
}

fn facts(html: &mut String, sheet: &Sheet) {
    let facts: String = sheet.facts.iter().map(|fact| format!("<p><b>{}</b> {}</p>", escape(&fact.what), escape(&fact.says))).collect();
    let _ = write!(
        html,
        "<section class=\"two small\"><div><h3>How it was measured</h3>{facts}</div>{}{}</section>",
        list("Checks and readings that were settled", &sheet.settled),
        list("Checks that stand open", &sheet.open)
    );
}

fn notes(html: &mut String, sheet: &Sheet) {
    let notes: String = sheet.notes.iter().map(note).collect();
    let assumed: String = sheet.assumptions.iter().map(|line| format!("<p>{}</p>", escape(line))).collect();
    let assumed = if assumed.is_empty() { assumed } else { format!("<div><h3>What was assumed</h3>{assumed}</div>") };
    let _ = write!(
        html,
        "<section class=\"two notes\"><h3>How each figure was made</h3>{notes}{assumed}<p><i>Where no source is named: {}, version {} of the rules.</i></p></section>",
        source::METHOD,
        sheet.rules_version
    );
}

fn note(note: &Note) -> String {
    let entries: Vec<String> = note
        .entries
        .iter()
        .map(|entry| {
            let result = entry.result.as_ref().map(|result| format!(" = {}", escape(result))).unwrap_or_default();
            let from: Vec<String> = entry.from.iter().map(usize::to_string).collect();
            let from = if from.is_empty() { String::new() } else { format!(", from {}", from.join(", ")) };
            let letters = entry.assumptions.join("\u{202f}");
            let letters = if letters.is_empty() { letters } else { format!(" [{letters}]") };
            format!("<b>{}</b>{result}: {}{from}{letters}", entry.number, escape(&entry.inputs))
        })
        .collect();
    let from = if note.source == source::METHOD { String::new() } else { format!(" {}.", escape(&note.source)) };
    format!(
        "<p><b>{}</b> <span class=\"num\">{}</span> <i>{}.{from}</i> {}</p>",
        escape(&note.title),
        escape(&note.formula),
        escape(&note.symbols),
        entries.join("; ")
    )
}

#[cfg(test)]
mod tests {
    use pukka_core::record::session::examples::mono_1100;
    use pukka_core::report::sheet::sheet;

    use super::*;

    fn heading() -> Heading {
        Heading { made_on: "2026-11-26".into(), settled_on: None }
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
        let cited: std::collections::BTreeSet<&str> = html.split("<sup>").skip(1).filter_map(|rest| rest.split("</sup>").next()).collect();
        assert!(cited.len() > 10, "{cited:?}");
        for number in cited {
            assert!(html.contains(&format!("<b>{number}</b> = ")), "note {number} is missing");
        }
    }

    #[test]
    fn an_empty_session_has_a_sheet_too() {
        let mut session = mono_1100();
        session.runs.clear();
        session.claims.clear();
        assert!(page(&sheet(&session), &heading()).contains("Nothing to judge yet"));
    }
}
