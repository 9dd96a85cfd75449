//! One line of text: its sentences, their clauses, and the claims they are.

use std::ops::Range;

use serde_json::Map;

use crate::kernel::units::{ClaimedWatts, Ohms};
use crate::kernel::wiring::Wiring;
use crate::record::claims::{Claim, ClaimKind, Per};

use super::cut::{self, Clause};
use super::figures::{self, Load, Power};
use super::said::{Conditions, Layout};
use super::table::{self, Heading};
use super::{said, together, words};

/// Meaning that was found in a line.
#[derive(Default)]
pub struct LineMeaning {
    /// The claims on it.
    pub claims: Vec<Claim>,
    /// Said something about the lines below it.
    pub heading: bool,
    /// Pieces with figures in them that were not understood.
    pub unread: Vec<String>,
}

/// Reads a plain line under its headings.
pub fn read(text: &str, heading: &mut Heading) -> LineMeaning {
    let mut meaning = LineMeaning::default();
    if words::RULE.is_match(text) {
        meaning.heading = true;
        return meaning;
    }
    if let Some(row) = table::row(text, heading) {
        meaning.claims = row;
        return meaning;
    }
    let sentences = cut::sentences(text);
    let any_power = sentences.iter().any(|piece| !figures::powers(&text[piece.clone()], heading.about_power).is_empty());
    if !any_power {
        meaning.heading = table::learn(text, heading);
        if meaning.heading && words::ANY_WATTS.is_match(text) {
            meaning.unread.push(text.to_owned());
        }
        return meaning;
    }
    // What a colon says holds to the end of its line.
    let mut local = heading.clone();
    for piece in sentences {
        sentence(text[piece].trim(), &mut local, &mut meaning);
    }
    // "…; …; … (14.4 V, 1 % THD)": a bracket that ends the line, where no other piece states its own.
    if let Some(group) = words::LAST_BRACKET.find(text).map(|hit| Conditions::of(hit.as_str()))
        && group.supply_v.is_some()
        && meaning.claims.iter().rev().skip(1).all(|claim| claim.supply_v.is_none() && claim.thd_limit_ratio.is_none())
    {
        meaning.claims.iter_mut().for_each(|claim| complete(claim, group));
    }
    heading.channels = heading.channels.or(local.channels);
    meaning
}

fn sentence(text: &str, heading: &mut Heading, meaning: &mut LineMeaning) {
    let powers = figures::powers(text, heading.about_power);
    if powers.is_empty() && words::ANY_WATTS.is_match(text) {
        meaning.unread.push(text.to_owned());
        return;
    }
    if powers.is_empty() {
        let conditions = Conditions::of(text);
        if words::ALL.is_match(text) && !conditions.is_empty() {
            // "All at 14.4 V, 1 % THD": of what was said before it.
            meaning.claims.iter_mut().for_each(|claim| complete(claim, conditions));
        } else if !table::learn_within(text, heading) && text.bytes().any(|b| b.is_ascii_digit()) {
            meaning.unread.push(text.to_owned());
        }
        return;
    }
    let loads = figures::loads(text, &powers);
    let colon = cut::prefix(text, &powers, &loads);
    if colon.is_some_and(|colon| words::OTHER_POWER.is_match(&text[..colon])) {
        meaning.unread.push(text.to_owned());
        return;
    }
    let start = colon.map_or(0, |colon| {
        table::learn_within(&text[..colon], heading);
        colon + 1
    });
    let clauses = cut::clauses(text, start, &powers, &loads);
    let whole = Sentence { text, heading, clauses: &clauses };
    let mut claims: Vec<Vec<Claim>> = Vec::with_capacity(clauses.len());
    for (n, clause) in clauses.iter().enumerate() {
        let piece = &text[clause.at.clone()];
        if words::OTHER_POWER.is_match(piece) {
            meaning.unread.push(piece.trim_matches([' ', ',', '|', '(', ')']).to_owned());
            claims.push(Vec::new());
        } else {
            claims.push(whole.claims(n));
        }
    }
    meaning.claims.extend(whole.driven_at_once(claims));
    meaning.unread.extend(unread(text, start, &powers, &loads));
}

/// Conditions that a claim does not have of its own.
fn complete(claim: &mut Claim, said: Conditions) {
    if claim.kind == ClaimKind::Unstated {
        claim.kind = said.kind.unwrap_or(claim.kind);
    }
    if claim.kind != ClaimKind::Max {
        claim.supply_v = claim.supply_v.or(said.supply_v);
        claim.thd_limit_ratio = claim.thd_limit_ratio.or(said.thd);
        claim.tone_hz = claim.tone_hz.or(said.tone_hz);
    }
}

/// Pieces between separators with a figure that nothing understood.
fn unread(text: &str, start: usize, powers: &[Power], loads: &[Load]) -> Vec<String> {
    let mut read: Vec<Range<usize>> = powers.iter().map(|power| power.at.clone()).chain(loads.iter().map(|load| load.at.clone())).collect();
    for pattern in [&words::OHMS, &words::OHM_RANGE, &words::VOLTS, &words::PERCENT, &words::CHANNELS, &words::TIMES_COUNT] {
        read.extend(pattern.find_iter(text).map(|hit| hit.range()));
    }
    // From a tone to a tone is a response: no claim says that.
    if !words::RANGE.is_match(text) {
        read.extend(words::TONE.find_iter(text).map(|hit| hit.range()));
    }
    let mut found = Vec::<String>::new();
    for figure in words::FIGURE.find_iter(text).filter(|figure| figure.start() >= start) {
        if read.iter().any(|read| read.start <= figure.start() && figure.end() <= read.end) {
            continue;
        }
        let parts = || words::PART.find_iter(text).map(|part| part.range());
        let from = parts().filter(|part| part.end <= figure.start()).last().map_or(start, |part| part.end);
        let to = parts().find(|part| part.start >= figure.end()).map_or(text.len(), |part| part.start);
        let piece = text[from..to].trim_matches([' ', ',', '|', '(', ')', '.']).to_owned();
        if !found.contains(&piece) {
            found.push(piece);
        }
    }
    found
}

/// A sentence whose clauses are told apart, each of which may leave out what another says.
struct Sentence<'a> {
    text: &'a str,
    heading: &'a Heading,
    clauses: &'a [Clause],
}

impl Sentence<'_> {
    fn piece(&self, n: usize) -> &str {
        &self.text[self.clauses[n].at.clone()]
    }

    /// Text before its first figure of watts, and behind its last.
    fn around(&self, n: usize) -> (&str, &str) {
        let clause = &self.clauses[n];
        let first = clause.powers.first().map_or(clause.at.start, |power| power.at.start);
        let last = clause.powers.last().map_or(clause.at.end, |power| power.at.end);
        (&self.text[clause.at.start..first], &self.text[last..clause.at.end])
    }

    /// Conditions that a group at the end of the sentence states of all of it: ", 14.4 V, 1 % THD", "(RMS)".
    fn trailing(&self) -> Conditions {
        let last = self.clauses.len() - 1;
        let clause = &self.clauses[last];
        let figures = clause.powers.iter().map(|power| power.at.end).chain(clause.loads.iter().map(|load| load.at.end));
        let end = figures.max().unwrap_or(clause.at.end);
        let behind = &self.text[end..clause.at.end];
        let group = behind.find([',', '(', '|']).map_or(Conditions::default(), |at| Conditions::of(&behind[at..]));
        // A word of kind that ends the sentence is of all its figures, as long as they are alike.
        Conditions { kind: group.kind.or_else(|| said::kind(behind)), ..group }
    }

    /// Conditions that earlier clauses state before their figures.
    fn leading(&self, n: usize) -> Conditions {
        (0..n).rev().fold(Conditions::default(), |said, earlier| {
            let (before, behind) = self.around(earlier);
            // "400 W RMS: 4 x 100 W" says it of what follows the colon.
            let behind = behind.rfind(':').map_or("", |colon| &behind[..colon]);
            said.or(Conditions::of(before)).or(Conditions::of(behind))
        })
    }

    fn alike(&self, n: usize, other: usize) -> bool {
        let times = |at: usize| self.clauses[at].powers.first().and_then(|power| power.times);
        !self.loads_of(n).is_empty() && times(n) == times(other)
    }

    fn conditions(&self, n: usize) -> Conditions {
        let own = Conditions::of(self.piece(n));
        let (leading, trailing) = (self.leading(n), self.trailing());
        let last = self.clauses.len() - 1;
        let for_all = |kind: &ClaimKind, from: usize| *kind == ClaimKind::Rms || self.alike(n, from);
        let kind = own
            .kind
            .or_else(|| leading.kind.filter(|kind| for_all(kind, n.saturating_sub(1))))
            .or_else(|| trailing.kind.filter(|kind| for_all(kind, last)));
        let kind = kind.or(self.heading.said.kind).unwrap_or(ClaimKind::Unstated);
        // A max figure among ratings is not made under their conditions.
        let rating = kind != ClaimKind::Max || self.heading.said.kind == Some(ClaimKind::Max);
        let others = if rating { leading.or(self.heading.said).or(trailing) } else { Conditions::default() };
        let own = Conditions { kind: Some(kind), ..own };
        own.or(others)
    }

    /// Loads of a clause: its own, else those its neighbours lend it.
    fn loads_of(&self, n: usize) -> Vec<Ohms> {
        let own: Vec<Ohms> = self.clauses[n].loads.iter().map(|load| load.ohms).collect();
        if !own.is_empty() {
            return own;
        }
        let named: Vec<usize> = (0..self.clauses.len()).filter(|other| !self.clauses[*other].loads.is_empty()).collect();
        let [only] = named.as_slice() else { return Vec::new() };
        let lender = &self.clauses[*only];
        let leads = lender.powers.first().is_some_and(|power| lender.loads.iter().all(|load| load.at.end <= power.at.start));
        // "4 ohm: 75 W RMS, 150 W max" and "75 W RMS / 150 W max at 4 ohm" are of one load; what only a comma parts is not.
        let next = &self.text[self.clauses[n].at.end..];
        let max = said::kind(self.piece(n)) == Some(ClaimKind::Max);
        let joined = words::JOINED.is_match(next) && (!max || next.trim_start().starts_with('/'));
        let lends = if leads { *only < n } else { *only > n && joined };
        if lends { lender.loads.iter().map(|load| load.ohms).collect() } else { Vec::new() }
    }

    /// Outputs of a clause that names none: those of its neighbour.
    fn layout(&self, n: usize) -> (Layout, Option<u8>) {
        let own = Layout::of(self.piece(n));
        let times = self.clauses[n].powers.iter().find_map(|power| power.times);
        let bare_max = self.clauses[n].loads.is_empty() && said::kind(self.piece(n)) == Some(ClaimKind::Max);
        if own.says_any() || times.is_some() || own.total || bare_max {
            return (own, times);
        }
        let neighbours = (0..n).rev().chain(n + 1..self.clauses.len());
        for other in neighbours {
            let layout = Layout::of(self.piece(other));
            let count = self.clauses[other].powers.iter().find_map(|power| power.times);
            if !layout.bridged && !layout.strapped && (layout.says_any() || count.is_some()) {
                return (layout, count);
            }
        }
        (own, None)
    }

    /// Whether a plus joins a clause with the one behind it.
    fn joined(&self, n: usize) -> bool {
        let ends = |clause: &Clause| (clause.powers.first().map(|power| power.at.start), clause.powers.last().map(|power| power.at.end));
        let next = self.clauses.get(n + 1).and_then(|next| ends(next).0);
        self.clauses.get(n).and_then(|clause| ends(clause).1).zip(next).is_some_and(|(from, to)| together::joins(&self.text[from..to]))
    }

    /// Claims of its clauses, those that are driven at once made into one.
    fn driven_at_once(&self, claims: Vec<Vec<Claim>>) -> Vec<Claim> {
        let mut done = Vec::new();
        let mut from = 0;
        while from < claims.len() {
            let mut to = from;
            while to + 1 < claims.len() && self.joined(to) {
                to += 1;
            }
            let run: Vec<Claim> = claims[from..=to].iter().flatten().cloned().collect();
            match together::one(&run, self.heading.channels).filter(|_| run.len() == to + 1 - from) {
                Some(one) => done.push(one),
                None => done.extend(run),
            }
            from = to + 1;
        }
        done
    }

    fn claims(&self, n: usize) -> Vec<Claim> {
        let clause = &self.clauses[n];
        let said = self.conditions(n);
        let (layout, times) = self.layout(n);
        let loads = self.loads_of(n);
        let columns = if loads.is_empty() { self.heading.loads() } else { &loads };
        pair(&clause.powers, columns)
            .into_iter()
            .filter_map(|(power, load)| {
                let outputs = Outputs { layout, times: power.times.or(times), heading: self.heading };
                outputs.claim(power.watts, load, said)
            })
            .collect()
    }
}

/// The outputs that a figure of watts is of.
pub struct Outputs<'a> {
    pub layout: Layout,
    pub times: Option<u8>,
    pub heading: &'a Heading,
}

impl Outputs<'_> {
    /// The claim that a figure is.
    pub fn claim(&self, watts: f64, load_ohm: Option<Ohms>, said: Conditions) -> Option<Claim> {
        let kind = said.kind.unwrap_or(ClaimKind::Unstated);
        let wiring = self.wiring(kind, load_ohm);
        let of_all = (self.layout.total || self.heading.layout.total) && !self.layout.each && self.times.is_none();
        Some(Claim {
            id: String::new(),
            source: "pasted".into(),
            wiring,
            setting: None,
            load_ohm,
            power_w: Some(ClaimedWatts::new(watts).ok()?),
            group_power_w: Vec::new(),
            per: if of_all || wiring.is_none() { Per::Total } else { Per::Output },
            kind,
            supply_v: said.supply_v,
            thd_limit_ratio: said.thd,
            tone_hz: said.tone_hz,
            used: true,
            extra: Map::new(),
        })
    }

    fn wiring(&self, kind: ClaimKind, load_ohm: Option<Ohms>) -> Option<Wiring> {
        let Layout { bridged, unbridged, strapped, mono, stereo, each, total, channels } = self.layout;
        let channels = channels.or(self.heading.channels);
        let several = channels.unwrap_or(1) > 1;
        let total = total || self.heading.layout.total;
        if strapped || (!unbridged && self.heading.layout.strapped && !self.layout.says_any()) {
            return Some(Wiring::Strapped { amplifiers: 2 });
        }
        let bridged = bridged || (self.heading.layout.bridged && !(unbridged || stereo));
        Some(match self.times {
            Some(n) if bridged => Wiring::Bridged { pairs: n },
            Some(1) if several => Wiring::Channels { driven: 1 },
            Some(1) => Wiring::Mono,
            Some(n) => Wiring::Channels { driven: n },
            None if bridged => Wiring::Bridged { pairs: if each { (channels.unwrap_or(2) / 2).max(1) } else { 1 } },
            None if mono && several => Wiring::Bridged { pairs: 1 },
            None if mono => Wiring::Mono,
            None if stereo => Wiring::Channels { driven: 2 },
            None if each => Wiring::Channels { driven: channels.filter(|n| *n > 1).unwrap_or(2) },
            // A bare max figure names no wiring; a bare rating is of all the amplifier has.
            None if kind == ClaimKind::Max && load_ohm.is_none() => return None,
            None if total && several => Wiring::Channels { driven: channels? },
            None if self.heading.layout.stereo => Wiring::Channels { driven: 2 },
            None if self.heading.layout.mono => {
                if several {
                    Wiring::Bridged { pairs: 1 }
                } else {
                    Wiring::Mono
                }
            }
            None => channels.filter(|n| *n > 1).map_or(Wiring::Mono, |driven| Wiring::Channels { driven }),
        })
    }
}

/// The load that goes with which figure of watts.
fn pair<'a>(powers: &'a [Power], loads: &[Ohms]) -> Vec<(&'a Power, Option<Ohms>)> {
    match (powers.len(), loads.len()) {
        (_, 0) => powers.iter().map(|power| (power, None)).collect(),
        (_, 1) => powers.iter().map(|power| (power, Some(loads[0]))).collect(),
        (p, l) if p == l => powers.iter().zip(loads).map(|(power, load)| (power, Some(*load))).collect(),
        // One figure for several loads holds for each of them.
        (1, _) => loads.iter().map(|load| (&powers[0], Some(*load))).collect(),
        _ => powers.iter().zip(loads.iter().map(Some).chain(std::iter::repeat(None))).map(|(power, load)| (power, load.copied())).collect(),
    }
}
