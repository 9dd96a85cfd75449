//! Titles, a description, a pinned comment: plain, and as Markdown.

use super::moments::clock;
use super::{clips, standing};
use crate::evidence::figures::figures;
use crate::kernel::format;
use crate::record::session::{Mode, Run, Session};
use crate::report::sheet::Sheet;

/// Words that go out.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Texts {
    /// Ideas for a title.
    pub titles: Vec<String>,
    /// The description, plain.
    pub description: String,
    /// The description as Markdown.
    pub markdown: String,
    /// Chapters, a line each; of several clips, a part each.
    pub chapters: String,
    /// A comment to pin.
    pub pinned: String,
}

/// A run in words.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Caption {
    /// "4 Ω certified, 447 W".
    pub short: String,
    /// "4 Ω, certified: 447 W at 14.38 V, 99.3 % of its claim".
    pub long: String,
}

/// A run in words; nothing when its readings give no power.
#[must_use]
pub fn caption(session: &Session, run: &Run) -> Option<Caption> {
    let made = figures(session, run).ok()?;
    let watts = format::with_unit(&made.total.text, "W");
    let place = run.wiring.place_words(run.load_nominal_ohm);
    let volts = run.end_volts().map(|volts| format!(" at {}", format::with_unit(&format::volts(volts.get()), "V"))).unwrap_or_default();
    let of_claim = made.against.map(|share| format!(", {} of its claim", format::with_unit(&share.text, "%"))).unwrap_or_default();
    Some(Caption {
        short: format!("{place} {}, {watts}", run.mode_words()),
        long: format!("{place}, {}: {watts}{volts}{of_claim}", run.mode_words()),
    })
}

/// Makes the words that go out. `is_locked`: the verdict was locked, and stands.
#[must_use]
pub fn texts(session: &Session, sheet: &Sheet, is_locked: bool) -> Texts {
    let chapters = chapters(session);
    let said = said(sheet);
    let standing = standing(&sheet.view, is_locked);
    Texts {
        titles: titles(session, sheet),
        description: description(session, sheet, &said, standing.as_deref(), &chapters),
        markdown: markdown(session, sheet, &said, standing.as_deref(), &chapters),
        pinned: pinned(sheet, &said, standing.as_deref()),
        chapters,
    }
}

/// The verdict as it is said, with what else there is to know.
fn said(sheet: &Sheet) -> String {
    let parts = [sheet.view.spoken(), sheet.view.to_know.clone()];
    parts.iter().map(|part| part.trim()).filter(|part| !part.is_empty()).collect::<Vec<_>>().join(" ")
}

fn titles(session: &Session, sheet: &Sheet) -> Vec<String> {
    let name = session.amplifier.name();
    let mut titles = Vec::new();
    if let Some(watts) = session.headline().and_then(|claim| claim.power_w) {
        titles.push(format!("{name}: does it make its {}?", format::with_unit(&format::watts(watts.get()), "W")));
    }
    let clean = sheet.view.loads.last().map(|row| format!("{} clean into {}", format::with_unit(&row.clean.text, "W"), row.load));
    titles.extend(clean.map(|clean| format!("{name} on the bench: {clean}")));
    if sheet.view.overall.is_some() {
        titles.push(format!("{name}, tested: {}", sheet.view.overall_word.to_lowercase()));
    }
    if titles.is_empty() {
        titles.push(format!("{name} on the bench"));
    }
    titles
}

fn chapters(session: &Session) -> String {
    let clips = clips(session);
    let several = clips.len() > 1;
    let mut lines: Vec<String> = Vec::new();
    for (n, clip) in clips.iter().enumerate() {
        if several {
            let name = clip.name.clone().unwrap_or_else(|| format!("Clip {}", n + 1));
            lines.push(format!("{}{name}", if n > 0 { "\n" } else { "" }));
        }
        lines.extend(clip.chapters.iter().map(|chapter| format!("{} {}", clock(chapter.at_s), chapter.title)));
    }
    lines.join("\n")
}

/// Facts of the measurement: whose the amplifier is stands at the end, by itself.
fn measured(sheet: &Sheet) -> impl Iterator<Item = &crate::report::sheet::Fact> {
    sheet.facts.iter().filter(|fact| fact.what != "Provenance")
}

/// How it was measured, in one paragraph.
fn method(sheet: &Sheet) -> String {
    let facts: Vec<String> = measured(sheet).map(|fact| format!("{}: {}", fact.what, fact.says.trim_end_matches('.'))).collect();
    if facts.is_empty() { String::new() } else { format!("How it was measured. {}.", facts.join("; ")) }
}

fn description(session: &Session, sheet: &Sheet, said: &str, standing: Option<&str>, chapters: &str) -> String {
    let mut parts: Vec<String> = vec![session.amplifier.name()];
    parts.extend(standing.map(str::to_owned));
    parts.push(format!("{}. {said}", sheet.view.overall_word));
    parts.push(chapters.to_owned());
    parts.push(readings(session).iter().map(|row| spaced(row)).collect::<Vec<_>>().join("\n"));
    parts.push(method(sheet));
    parts.push(sheet.view.basis.clone());
    parts.push(sheet.view.disclosure.clone());
    parts.retain(|part| !part.is_empty());
    parts.join("\n\n") + "\n"
}

fn markdown(session: &Session, sheet: &Sheet, said: &str, standing: Option<&str>, chapters: &str) -> String {
    let mut parts: Vec<String> = vec![format!("# {}", plain(&session.amplifier.name()))];
    parts.extend(standing.map(|standing| format!("> {standing}")));
    parts.push(format!("**{}.** {}", sheet.view.overall_word, plain(said)));
    let rows = readings(session);
    if !rows.is_empty() {
        let lines: Vec<String> =
            rows.iter().map(|row| format!("| {} |", row.iter().map(|text| plain(text)).collect::<Vec<_>>().join(" | "))).collect();
        parts.push(format!(
            "| load | mode | watts | of its claim | supply | draw | efficiency |\n|---|---|---|---|---|---|---|\n{}",
            lines.join("\n")
        ));
    }
    if !chapters.is_empty() {
        let listed: Vec<String> =
            chapters.lines().map(|line| if line.is_empty() { String::new() } else { format!("- {}", plain(line)) }).collect();
        parts.push(format!("## Chapters\n\n{}", listed.join("\n")));
    }
    let facts: Vec<String> = measured(sheet).map(|fact| format!("- {}: {}", fact.what, plain(&fact.says))).collect();
    parts.push(format!("## How it was measured\n\n{}\n\n{}", facts.join("\n"), plain(&sheet.view.basis)));
    parts.push(plain(&sheet.view.disclosure));
    parts.retain(|part| !part.is_empty());
    parts.join("\n\n") + "\n"
}

fn pinned(sheet: &Sheet, said: &str, standing: Option<&str>) -> String {
    let told: Vec<&str> = sheet.told.iter().map(|told| told.says.as_str()).collect();
    let parts = [standing.unwrap_or_default(), said, &told.join(" "), &sheet.view.disclosure];
    parts.iter().filter(|part| !part.is_empty()).map(|part| part.trim()).collect::<Vec<_>>().join("\n")
}

/// The cells of a line that have something in them.
fn spaced(row: &[String]) -> String {
    row.iter().filter(|cell| !cell.is_empty()).cloned().collect::<Vec<_>>().join(" ")
}

/// A line a run: load, mode, watts, share of the claim, supply, draw, efficiency.
fn readings(session: &Session) -> Vec<[String; 7]> {
    let mut rows = Vec::new();
    for run in crate::evidence::rungs::runs_along(session) {
        let Ok(made) = figures(session, run) else { continue };
        let unit = |text: Option<String>, unit: &str| text.map(|text| format::with_unit(&text, unit)).unwrap_or_default();
        rows.push([
            run.wiring.place_words(run.load_nominal_ohm),
            run.mode_words(),
            format::with_unit(&made.total.text, "W"),
            unit(made.against.map(|share| share.text).filter(|_| run.mode == Mode::Certified), "%"),
            unit(run.end_volts().map(|volts| format::volts(volts.get())), "V"),
            unit(run.current_a.map(|amps| format::amps(amps.get())), "A"),
            unit(made.efficiency.map(|share| share.text), "%"),
        ]);
    }
    rows
}

/// A text whose signs mean nothing in Markdown.
fn plain(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    for c in text.chars() {
        if matches!(c, '\\' | '`' | '*' | '_' | '[' | ']' | '<' | '>' | '|' | '#') {
            out.push('\\');
        }
        out.push(c);
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::record::session::examples::mono_1100;
    use crate::report::sheet::sheet;

    #[test]
    fn the_words_of_the_example() {
        let session = mono_1100();
        let texts = texts(&session, &sheet(&session), false);
        let said = |text: &str| text.replace(['\u{202f}', '\u{a0}'], " ");
        assert_eq!(
            texts.titles.iter().map(|title| said(title)).collect::<Vec<_>>(),
            [
                "Tolland & Pike Mono 1100: does it make its 1 100 W?",
                "Tolland & Pike Mono 1100 on the bench: 1 068 W clean into 1 Ω",
                "Tolland & Pike Mono 1100, tested: pukka"
            ]
        );
        let description = said(&texts.description);
        assert!(
            description
                .starts_with("Tolland & Pike Mono 1100\n\nNot locked: this verdict can still change.\n\nPukka. It does what the box says."),
            "{description}"
        );
        assert!(
            description.contains("0:00 What it claims") && description.contains("1 Ω certified 1 068 W 97.1 % 13.96 V 124.6 A 61.4 %"),
            "{description}"
        );
        assert!(description.trim_end().ends_with(session.amplifier.provenance.disclosure()), "the disclosure is said");
        assert!(
            said(&texts.markdown).contains("| 1 Ω | certified | 1 068 W | 97.1 % | 13.96 V | 124.6 A | 61.4 % |"),
            "{}",
            texts.markdown
        );
        let locked = super::texts(&session, &sheet(&session), true);
        assert!(!locked.description.contains("Not locked"));
    }

    #[test]
    fn names_mean_nothing_in_markdown() {
        assert_eq!(plain("A*B_[x](y)|#<i>"), "A\\*B\\_\\[x\\](y)\\|\\#\\<i\\>");
    }
}
