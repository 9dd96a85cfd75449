//! What a session file brings to a session that is on the shelf already: worked out before anything is done.
//!
//! The file's word stands for the record, the claims and the settings; runs are only ever added. Nothing here is removed for not
//! being in the file, and a run that is here with other readings refuses the file: a reading is never overwritten.

use crate::kernel::format;
use crate::kernel::problem::Problem;
use crate::kernel::wiring::same_load;
use crate::record::claims::Claim;
use crate::record::session::{About, Acceptance, Gate, PlannedRung, ReadingName, Run, Session};

/// Changes to make.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Merge {
    /// The amplifier's record is another.
    pub amplifier: bool,
    /// Bench, policy, idle draw, gain or order are others.
    pub settings: bool,
    /// Facts beside the measurement that the file tells, and that are not here: date, footage, claps, listening, a post-mortem, guesses.
    pub about: bool,
    /// Claims that are here with the same id and say something else.
    pub claims_changed: Vec<Claim>,
    /// Claims that are not here.
    pub claims_new: Vec<Claim>,
    /// Rungs that are not here, or set otherwise: as here, and as in the file.
    pub rungs: Vec<(PlannedRung, PlannedRung)>,
    /// Gates that were opened there.
    pub gates: Vec<Gate>,
    /// Runs that are not here.
    pub runs_new: Vec<Run>,
    /// Runs that were taken back there, or put back.
    pub standing: Vec<(String, bool)>,
    /// Readings that were struck there.
    pub struck: Vec<(String, ReadingName)>,
    /// Checks that were accepted there.
    pub accepted: Vec<(String, Acceptance)>,
    /// Notes on runs that are others there.
    pub noted: Vec<(String, String)>,
    /// Runs that cannot be brought together.
    pub refused: Vec<Problem>,
}

impl Merge {
    /// Compares a file with what is here; both by the ids of the file.
    #[must_use]
    pub fn of(here: &Session, file: &Session) -> Self {
        let own = About::of(here);
        let mut merge = Self {
            amplifier: here.amplifier != file.amplifier,
            settings: settings(here) != settings(file),
            about: own.clone().told_by(About::of(file)) != own,
            gates: file.gates.iter().filter(|gate| !here.gates.contains(gate)).cloned().collect(),
            ..Self::default()
        };
        for claim in &file.claims {
            match here.claims.iter().find(|known| known.id == claim.id) {
                None => merge.claims_new.push(claim.clone()),
                Some(known) if known != claim => merge.claims_changed.push(claim.clone()),
                Some(_) => {}
            }
        }
        for rung in &file.plan.rungs {
            match here.plan.rungs.iter().find(|known| same_rung(known, rung)) {
                Some(known) if known == rung => {}
                known => merge.rungs.push((known.unwrap_or(rung).clone(), rung.clone())),
            }
        }
        for (i, run) in file.runs.iter().enumerate() {
            match here.run(&run.id) {
                None => merge.runs_new.push(run.clone()),
                Some(known) => merge.known_run(i, known, run),
            }
        }
        merge
    }

    fn known_run(&mut self, index: usize, here: &Run, file: &Run) {
        let bare = |run: &Run| Run { valid: true, ungated: false, struck: Vec::new(), accepted: Vec::new(), note: None, ..run.clone() };
        if bare(here) != bare(file) {
            self.refused.push(Problem::new(
                format!("runs[{index}]"),
                format!("Run “{}” already exists with other readings; readings are never overwritten. Give it another id.", file.id),
            ));
            return;
        }
        if here.valid != file.valid {
            self.standing.push((file.id.clone(), file.valid));
        }
        let struck = file.struck.iter().filter(|name| !here.struck.contains(name));
        self.struck.extend(struck.map(|name| (file.id.clone(), *name)));
        let accepted = file.accepted.iter().filter(|one| !here.accepted.contains(one));
        self.accepted.extend(accepted.map(|one| (file.id.clone(), one.clone())));
        self.noted.extend(file.note.iter().filter(|note| here.note.as_ref() != Some(note)).map(|note| (file.id.clone(), note.clone())));
    }

    /// Whether the file brings nothing that is not here.
    #[must_use]
    pub fn is_nothing(&self) -> bool {
        *self == Self::default()
    }

    /// Content, a line each.
    #[must_use]
    pub fn says(&self) -> Vec<String> {
        let counted = |n: usize, one: &str, many: &str| {
            (n > 0).then(|| if n == 1 { format!("one {one}") } else { format!("{} {many}", format::count(n)) })
        };
        let marks = self.standing.len() + self.struck.len() + self.accepted.len() + self.noted.len();
        [
            self.amplifier.then(|| "its record".to_owned()),
            self.settings.then(|| "its bench and settings".to_owned()),
            self.about.then(|| "facts of its session".to_owned()),
            counted(self.claims_new.len(), "more claim", "more claims"),
            counted(self.claims_changed.len(), "changed claim", "changed claims"),
            counted(self.rungs.len(), "rung set", "rungs set"),
            counted(self.gates.len(), "gate opened", "gates opened"),
            counted(self.runs_new.len(), "more run", "more runs"),
            counted(marks, "mark on a run", "marks on runs"),
        ]
        .into_iter()
        .flatten()
        .collect()
    }
}

fn same_rung(a: &PlannedRung, b: &PlannedRung) -> bool {
    a.wiring == b.wiring && a.setting == b.setting && same_load(a.load_ohm.get(), b.load_ohm.get()) && a.tone_hz == b.tone_hz
}

/// Settings of a session as a whole.
fn settings(session: &Session) -> impl PartialEq + use<'_> {
    let Session { bench, policy, idle, gain, plan, repairs, extra, .. } = session;
    (bench, policy, idle, gain, plan.order, plan.tone_order, plan.rest_v, repairs, extra)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::kernel::units::{Ohms, Volts, Watts};
    use crate::kernel::wiring::Wiring;
    use crate::record::session::Mode;
    use crate::record::session::examples::{claim, mono_1100, run};

    #[test]
    fn the_same_file_brings_nothing() {
        assert!(Merge::of(&mono_1100(), &mono_1100()).is_nothing());
    }

    #[test]
    fn what_is_new_or_changed_is_named_and_nothing_is_removed() {
        let here = mono_1100();
        let mut file = mono_1100();
        file.runs.truncate(4);
        file.claims[0] = claim("c1", Wiring::Mono, 4.0, 460.0);
        file.claims.push(claim("c9", Wiring::Mono, 8.0, 250.0));
        file.runs.push(run("r99", Wiring::Mono, 8.0, Mode::Certified, 240.0, Some(14.4)));
        file.runs[1].valid = false;
        file.runs[2].struck.push(ReadingName::Current);
        file.runs[2].note = Some("smelt warm".into());
        file.occasion = Some("after a repair".into());
        file.footage_from = Some("second camera".into());
        file.plan.rest_v = Some(Volts::new(14.2).unwrap());
        file.amplifier.model = "Mono 1100 b".into();
        file.plan.rungs = vec![PlannedRung { load_measured_ohm: Some(Ohms::new(3.9).unwrap()), ..here.plan.rungs[0].clone() }];
        let merge = Merge::of(&here, &file);
        assert_eq!(
            merge.says(),
            [
                "its record",
                "its bench and settings",
                "facts of its session",
                "one more claim",
                "one changed claim",
                "one rung set",
                "one more run",
                "three marks on runs"
            ]
        );
        assert!(merge.refused.is_empty());
    }

    #[test]
    fn a_reading_is_never_overwritten() {
        let mut file = mono_1100();
        file.runs[3].outputs[0].power_w = Some(Watts::new(1.0).unwrap());
        let merge = Merge::of(&mono_1100(), &file);
        assert_eq!(merge.refused[0].path, "runs[3]");
        assert!(merge.runs_new.is_empty());
    }
}
