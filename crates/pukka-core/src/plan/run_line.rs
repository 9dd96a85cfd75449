//! A run as it would be logged, and a run as the line it could be typed as.

use crate::evidence::entry::{Readings, print};
use crate::evidence::rungs::{Rung, method_of};
use crate::record::session::{Mode, Run, Session};

/// A run as it would be logged now: what was read, with what is set for the rung.
#[must_use]
pub fn run_at(session: &Session, rung: &Rung, mode: Mode, readings: Readings, id: String, at: jiff::Timestamp, who: Option<String>) -> Run {
    Run {
        id,
        at,
        wiring: rung.id.wiring,
        setting: rung.id.setting.clone(),
        load_nominal_ohm: rung.id.load_ohm,
        load_measured_ohm: rung.set.load_measured_ohm,
        group_loads_measured_ohm: rung.set.group_loads_measured_ohm.clone(),
        mode,
        method: method_of(mode, &readings.outputs),
        tone_hz: rung.id.tone_hz,
        limit_ratio: (mode == Mode::Certified).then_some(session.policy.thd_limit_ratio),
        extra_drive_db: Some(rung.extra_drive_db(session, mode)),
        outputs: readings.outputs,
        total_power_w: readings.total_power_w,
        approximate: readings.approximate,
        climbed_from_w: readings.climbed_from_w,
        mode_stated: true,
        rest_v: readings.rest_v.or(rung.set.rest_v),
        end_v: readings.end_v,
        current_a: readings.current_a,
        charger_on: readings.charger_on.or(rung.set.charger_on),
        thd_ratio: readings.thd_ratio,
        temperature_c: readings.temperature_c,
        valid: true,
        efficiency_read_ratio: readings.efficiency_ratio,
        steps: Vec::new(),
        cycles: readings.cycles,
        hold: readings.hold,
        supply_also: readings.supply_also,
        bank: rung.set.bank.clone(),
        evidence: Vec::new(),
        struck: Vec::new(),
        accepted: Vec::new(),
        supersedes: None,
        reason: None,
        incident: None,
        ungated: false,
        incomplete: false,
        who,
        note: readings.note,
        extra: serde_json::Map::new(),
    }
}

/// Readings of a run, as a line.
#[must_use]
pub fn line_of(run: &Run) -> String {
    print(&Readings {
        outputs: run.outputs.clone(),
        total_power_w: run.total_power_w,
        approximate: run.approximate.clone(),
        climbed_from_w: run.climbed_from_w,
        end_v: run.end_v,
        current_a: run.current_a,
        thd_ratio: run.thd_ratio,
        temperature_c: run.temperature_c,
        efficiency_ratio: run.efficiency_read_ratio,
        cycles: run.cycles.clone(),
        hold: run.hold.clone(),
        supply_also: run.supply_also.clone(),
        note: run.note.clone(),
        ..Readings::default()
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::evidence::entry::{EntryContext, read};
    use crate::evidence::figures::numbers;
    use crate::kernel::units::Volts;
    use crate::kernel::wiring::Wiring;
    use crate::plan::ladder::find;
    use crate::record::session::Method;
    use crate::record::session::examples::mono_1100;

    #[test]
    fn a_run_as_it_would_be_logged() {
        let session = mono_1100();
        let rung = find(&session, "mono@2@40").unwrap();
        let asked = EntryContext { wiring: Wiring::Mono, mode: Mode::Certified, meters: &[] };
        let readings = read("55.3vp 14.2 77 # by eye", asked).readings;
        let run = run_at(&session, &rung, Mode::Certified, readings, "new".into(), "2026-11-20T11:00:00Z".parse().unwrap(), None);
        assert_eq!(run.method, Some(Method::Eye));
        assert_eq!(run.load().get(), 1.98);
        assert_eq!(run.rest_v.map(Volts::get), Some(14.6));
        assert_eq!(line_of(&run), "55.3vp 14.2v 77a # by eye");
        // 55.3² / (2 × 1.98) = 772.2 W
        assert!((numbers(&session, &run).total.unwrap().total_w - 772.25).abs() < 0.01);
    }
}
