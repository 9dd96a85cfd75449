//! Running text into pieces with one claim each.

use std::ops::Range;

use super::figures::{Load, Power};
use super::{said, words};

/// Conditions that stand before the first figure of a sentence, and so before the others.
#[derive(Clone, Copy)]
struct Leads {
    load: bool,
    kind: bool,
}

/// A piece of a sentence: the figures in it, and what stands round them.
#[derive(Debug, Clone)]
pub struct Clause {
    pub at: Range<usize>,
    pub powers: Vec<Power>,
    pub loads: Vec<Load>,
}

/// Sentences of a line: cut at semicolons and full stops, not at the stop of a short form or of a number.
pub fn sentences(text: &str) -> Vec<Range<usize>> {
    let mut ends: Vec<usize> = text.match_indices(';').map(|(at, _)| at).collect();
    for hit in words::SENTENCE.captures_iter(text) {
        let (Some(word), Some(stop)) = (hit.get(1), hit.get(2)) else { continue };
        if !words::SHORT_FORM.is_match(word.as_str()) {
            ends.push(stop.start());
        }
    }
    ends.sort_unstable();
    let starts = std::iter::once(0).chain(ends.iter().map(|end| end + 1));
    starts
        .zip(ends.iter().copied().chain([text.len()]))
        .map(|(from, to)| from..to)
        .filter(|piece| !text[piece.clone()].trim().is_empty())
        .collect()
}

/// Conditions before a colon, with neither watts nor a load: they hold for what follows.
pub fn prefix(text: &str, powers: &[Power], loads: &[Load]) -> Option<usize> {
    let colon = text.find(':')?;
    let first = powers.iter().map(|power| power.at.start).chain(loads.iter().map(|load| load.at.start)).min()?;
    (colon < first).then_some(colon)
}

/// A sentence from `start` on, cut between its figures of watts.
pub fn clauses(text: &str, start: usize, powers: &[Power], loads: &[Load]) -> Vec<Clause> {
    let mut places: Vec<Range<usize>> = powers.iter().map(|power| power.at.clone()).collect();
    places.dedup();
    let one = || vec![Clause { at: start..text.len(), powers: powers.to_vec(), loads: loads.to_vec() }];
    let (Some(first), Some(last)) = (places.first(), places.last()) else { return Vec::new() };
    // "75, 110 and 150 W at 4, 2 and 1 ohm": as many loads as figures, all of them before or all behind.
    let apart = loads.iter().all(|load| load.at.start >= last.end) || loads.iter().all(|load| load.at.end <= first.start);
    if places.len() < 2 || (apart && loads.len() == powers.len()) {
        return one();
    }
    let leads = Leads {
        load: loads.first().is_some_and(|load| load.at.start < first.start),
        kind: said::kind(&text[start..first.start]).is_some(),
    };
    let mut cuts = vec![start];
    for pair in places.windows(2) {
        cuts.push(cut_between(text, &pair[0], &pair[1], loads, leads));
    }
    cuts.push(text.len());
    let within = |place: &Range<usize>, piece: &Range<usize>| piece.contains(&place.start);
    cuts.windows(2)
        .map(|ends| {
            let at = ends[0]..ends[1];
            Clause {
                powers: powers.iter().filter(|power| within(&power.at, &at)).cloned().collect(),
                loads: loads.iter().filter(|load| within(&load.at, &at)).cloned().collect(),
                at,
            }
        })
        .collect()
}

/// Place where the clause of one figure ends and that of the next begins.
fn cut_between(text: &str, one: &Range<usize>, next: &Range<usize>, loads: &[Load], leads: Leads) -> usize {
    let between: Vec<&Load> = loads.iter().filter(|load| load.at.start >= one.end && load.at.end <= next.start).collect();
    // The loads lead: the next clause begins before its load. They follow: it begins behind the last of them.
    let (from, to) = match (between.first(), between.last()) {
        (Some(first), Some(last)) if leads.load && first.at == last.at => (one.end, first.at.start),
        (Some(_), Some(last)) => (last.at.end, next.start),
        _ => (one.end, next.start),
    };
    let part = words::PART.find_iter(&text[from..to]).last().map(|part| from + part.start());
    part.unwrap_or(match between.is_empty() {
        // "75 W RMS 150 W max": what follows a figure belongs to it, unless the first has its word before it.
        true if leads.kind => from,
        true => to,
        false if leads.load => to,
        false => from,
    })
}
