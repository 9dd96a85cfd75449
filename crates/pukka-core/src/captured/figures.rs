//! The figures of a stretch, each with its working.

use serde::{Deserialize, Serialize};

use crate::kernel::format;
use crate::kernel::working::{Figure, Working, source};
use crate::traces::cut::StretchKind;
use crate::traces::report::{Cycle, Stretch};
use crate::traces::{ChannelKind, TraceSettings};

/// A figure by its name.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct NamedFigure {
    /// Name: "Sustained, last cycle".
    pub name: String,
    /// The figure.
    pub figure: Figure,
    /// Past the limit.
    pub past_limit: bool,
}

struct Figures<'a> {
    stretch: &'a Stretch,
    asked: &'a TraceSettings,
    channel: usize,
    list: Vec<NamedFigure>,
}

/// Every figure of a stretch of a channel, from 0, that was measured with these settings.
#[must_use]
pub fn captured_figures(stretch: &Stretch, asked: &TraceSettings, channel: usize) -> Vec<NamedFigure> {
    let mut figures = Figures { stretch, asked, channel, list: Vec::new() };
    figures.tone();
    figures.power();
    figures.distortion();
    figures.supply();
    figures.list
}

impl Figures<'_> {
    fn add(&mut self, name: &str, figure: Figure) {
        self.list.push(NamedFigure { name: name.to_owned(), figure, past_limit: false });
    }

    fn is_output(&self) -> bool {
        self.asked.channels.get(self.channel).is_none_or(|setting| setting.kind == ChannelKind::Output)
    }

    fn tone(&mut self) {
        if let Some(hz) = self.stretch.frequency_hz {
            let working = Working::new("Frequency", "four-parameter sine fit, least squares", source::SINE_FIT);
            self.add("Fundamental", Figure { text: format::fixed(hz, 2), ..Figure::significant(hz, "Hz", working) });
        }
    }

    /// Watts of a cycle or of all of it.
    fn watts(&self, title: &str, rms: f64, what: &str) -> Option<Figure> {
        let load = self.asked.load_ohm.filter(|_| self.is_output())?;
        let watts = rms * rms / load;
        let relative = self.asked.channels.get(self.channel).map(|own| {
            // Limits are rectangular, as those of the run that it becomes: U = 2 · √(Σ (a/√3)²).
            2.0 * (2.0 * own.scale_u_ratio).hypot(self.asked.load_u_ratio) / 3f64.sqrt()
        });
        let working = Working::new(title, "P = V² / R", source::CIRCUITS).with("V", what, rms, "V").with("R", "load", load, "Ω");
        let working = match relative {
            Some(_) => working.assuming(
                "± by the scale of the capture and the load, each within its limits a: U = 2 · P · √((2·a(V)/√3)² + (a(R)/√3)²).",
            ),
            None => working,
        };
        Some(Figure::watts(watts, working).give_or_take(relative.map(|u| u * watts)))
    }

    fn power(&mut self) {
        let own = self.stretch;
        match own.kind {
            StretchKind::Quiet | StretchKind::Sweep => {}
            StretchKind::Ramp | StretchKind::Steps => {
                if let Some(found) = own.certified {
                    let figure = self.watts("Power at the limit", found.rms, "rms where the limit is crossed and stays crossed");
                    self.list.extend(figure.map(|figure| NamedFigure { name: "At the limit".into(), figure, past_limit: false }));
                    let limit = Working::new("Distortion limit", "of the policy", source::METHOD);
                    self.add("Limit", Figure::percent(self.asked.limit_ratio, limit));
                }
                let top = own.points.iter().flatten().max_by(|a, b| a.rms.total_cmp(&b.rms));
                let figure = top.and_then(|top| self.watts("Most power", top.rms, "rms of the loudest window"));
                self.list.extend(figure.map(|figure| NamedFigure { name: "Loudest".into(), figure, past_limit: false }));
            }
            StretchKind::Tone => {
                let figure = self.watts("Power", own.rms, "rms over whole periods");
                self.list.extend(figure.map(|figure| NamedFigure { name: "Power".into(), figure, past_limit: false }));
            }
            StretchKind::Burst => self.burst(),
        }
        let volts = |title: &str, what: &str| Working::new(title, what, source::AMPLIFIERS);
        if matches!(own.kind, StretchKind::Tone | StretchKind::Burst) && self.is_output() {
            self.add("Volts, rms", Figure::volts(own.rms, volts("Volts rms", "√ of the mean square about the mean, over whole periods")));
            self.add(
                "Volts, peak",
                Figure::volts(own.peak, volts("Volts peak", "largest value about the mean, between samples by band-limited interpolation")),
            );
        }
        if let Some(db) = own.crest_db {
            let working = Working::new("Crest factor", "20 · log10(Vpk / Vrms)", source::CIRCUITS);
            self.add("Crest factor", Figure::decibels(db, working.with("Vpk", "peak", own.peak, "V").with("Vrms", "rms", own.rms, "V")));
        }
    }

    fn burst(&mut self) {
        let own = self.stretch;
        let of = |cycle: Option<Cycle>, title: &str, what: &str, this: &Self| this.watts(title, cycle?.rms, what);
        let (sustained, best) = (
            of(own.sustained, "Sustained power", "rms of the lower of the first and the last cycle", self),
            of(own.best, "Best power", "rms of the higher of the two", self),
        );
        let last_is_lower = own.sustained == own.last;
        let names =
            if last_is_lower { ["Sustained, last cycle", "Best, first cycle"] } else { ["Sustained, first cycle", "Best, last cycle"] };
        let whole = self.watts("Power over the burst", own.rms, "rms over its whole cycles");
        for (name, figure) in names.into_iter().zip([sustained, best]).chain([("Over the burst", whole)]) {
            self.list.extend(figure.map(|figure| NamedFigure { name: name.into(), figure, past_limit: false }));
        }
        if let Some((db, (first, last))) = own.droop_db.zip(own.first.zip(own.last)) {
            let working = Working::new("Droop", "20 · log10(Vlast / Vfirst)", source::METHOD)
                .with("Vlast", "peak of the last cycle", last.peak, "V")
                .with("Vfirst", "peak of the first cycle", first.peak, "V");
            self.add("Droop, first cycle to last", Figure::decibels(db, working));
        }
    }

    fn distortion(&mut self) {
        let own = self.stretch;
        let limit = self.asked.limit_ratio;
        let thd_n = Working::new("THD+N", "rms without the fundamental / rms of all, 20 Hz to 20 kHz", source::TRACE_METHOD);
        let thd = Working::new("THD", "√ΣVh² / V1, each harmonic fitted", source::TRACE_METHOD);
        for (name, ratio, working) in [("THD+N", own.thd_n_ratio, thd_n), ("THD", own.thd_ratio, thd)] {
            if let Some(ratio) = ratio {
                let figure = Figure { text: format::significant(100.0 * ratio, 3), ..Figure::percent(ratio, working) };
                self.list.push(NamedFigure { name: name.into(), figure, past_limit: ratio > limit });
            }
        }
        if let Some(flat) = own.flat_ratio {
            let working =
                Working::new("Flat tops", "share of a cycle within 0.5 % of its half cycle's peak; of a sine 6.4 %", source::TRACE_METHOD);
            self.add("Flat for", Figure { text: format::fixed(100.0 * flat, 1), ..Figure::percent(flat, working) });
        }
        if let Some(past) = own.past_onset_db.filter(|db| *db > 0.0 && own.clipped == Some(true)) {
            let working =
                Working::new("Past the onset", "from the hard-clipped sine of the same fundamental over peak", source::TRACE_METHOD);
            self.add("Past the onset of clipping", Figure::decibels(past, working));
        }
        if matches!(own.kind, StretchKind::Tone | StretchKind::Burst) {
            let working = Working::new("DC offset", "mean of the fitted sine", source::SINE_FIT);
            self.add("DC offset", Figure { text: format::fixed(1e3 * own.dc, 0), ..Figure::significant(1e3 * own.dc, "mV", working) });
        }
    }

    fn supply(&mut self) {
        let Some(supply) = self.stretch.supply.clone() else { return };
        let of = |title: &str, formula: &str| Working::new(title, formula, source::TRACE_METHOD);
        if let Some(volts) = supply.lowest_v {
            self.add("Supply, lowest", Figure::volts(volts, of("Lowest supply", "lowest sample of the stretch")));
        }
        // Over a level that moves, a mean says little.
        if !matches!(self.stretch.kind, StretchKind::Tone | StretchKind::Burst) {
            return;
        }
        if let Some(volts) = supply.mean_v {
            self.add("Supply, mean", Figure::volts(volts, of("Mean supply", "mean over the stretch")));
        }
        if let Some(amps) = supply.mean_a {
            self.add("Draw, mean", Figure::amps(amps, of("Mean draw", "mean over the stretch")));
        }
        if let (Some(input), Some(ratio), Some(power)) = (supply.input_w, supply.efficiency_ratio, self.stretch.power_w) {
            self.add("Power in", Figure::watts(input, of("Power in", "mean of v · i, sample by sample")));
            let working =
                of("Efficiency", "P / Pin").with("P", "power out, of this output", power, "W").with("Pin", "power in", input, "W");
            self.add("Efficiency", Figure { text: format::fixed(100.0 * ratio, 1), ..Figure::percent(ratio, working) });
        }
    }
}
