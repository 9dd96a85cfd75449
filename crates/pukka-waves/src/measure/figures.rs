//! The figures of each kind of stretch, over windows of it.

use super::{Reader, SEARCHED};
use crate::burst::burst;
use crate::cut::{Piece, StretchKind};
use crate::distortion::{self, Tone, centre, tone};
use crate::harmonics;
use crate::ramp;
use crate::report::{AboveBand, ChannelKind, Cycle, LevelPoint, Stretch};
use crate::response;
use crate::sine::fit;
use crate::source::SourceError;
use crate::transfer::{self, Cross};

/// Windows at most that a sweep is followed in, how many periods each holds, and how long it is at most.
const SWEEP_WINDOWS: usize = 2_000;
const SWEEP_PERIODS: f64 = 6.0;
const SWEEP_LONGEST_S: f64 = 0.25;

impl Reader<'_> {
    pub(super) fn stretch(&mut self, channel: usize, piece: Piece, hz: f64, before_db: Option<f64>) -> Result<Stretch, SourceError> {
        let bare = self.bare(channel, piece.kind, piece.from, piece.to);
        match piece.kind {
            StretchKind::Quiet => Ok(bare),
            StretchKind::Tone => self.tone(channel, piece, hz, bare),
            StretchKind::Burst => self.burst(channel, piece, hz, before_db, bare),
            StretchKind::Ramp | StretchKind::Steps => self.ramp(channel, piece, hz, bare),
            StretchKind::Sweep => self.sweep(channel, piece, bare),
        }
    }

    pub(super) fn power_w(&self, channel: usize, rms: f64) -> Option<f64> {
        let load = self.asked.load_ohm.filter(|_| self.setting(channel).kind == ChannelKind::Output)?;
        Some(rms * rms / load)
    }

    /// ± of watts: twice that of the scale, and that of the load.
    fn power_u_w(&self, channel: usize, power_w: Option<f64>) -> Option<f64> {
        power_w.map(|watts| watts * (2.0 * self.setting(channel).scale_u_ratio).hypot(self.asked.load_u_ratio))
    }

    pub(super) fn filled(&self, channel: usize, bare: Stretch, tone: &Tone) -> Stretch {
        Stretch {
            frequency_hz: Some(tone.sine.hz),
            dc: tone.sine.dc,
            rms: tone.rms,
            peak: tone.peak,
            crest_db: tone.crest_db(),
            fundamental_rms: Some(tone.sine.rms()),
            thd_ratio: tone.thd_ratio,
            thd_n_ratio: tone.thd_n_ratio,
            flat_ratio: tone.flat_ratio,
            clipped: Some(tone.is_clipped(self.asked.limit_ratio)),
            past_onset_db: tone.past_onset_db,
            power_w: self.power_w(channel, tone.rms),
            power_u_w: self.power_u_w(channel, self.power_w(channel, tone.rms)),
            above_band: tone.above_band.map(|(hz, rms)| AboveBand { hz, rms }),
            ..bare
        }
    }

    pub(super) fn tone(&mut self, channel: usize, piece: Piece, hz: f64, bare: Stretch) -> Result<Stretch, SourceError> {
        let (hop, rate_hz) = (self.levels.hop, self.rate_hz());
        // Clear of its ends, by a period and more, where it is long enough for that.
        let margin = ((1.5 * rate_hz / hz) as usize).min((piece.to - piece.from) * hop / 8);
        let (from, to) = (piece.from * hop + margin, piece.to * hop - margin);
        let most = distortion::looked_at(rate_hz, hz);
        let length = (to - from).min(most);
        let start = from + (to - from - length) / 2;
        let samples = self.window(channel, start as u64, length)?;
        let searched = SEARCHED.max((8.0 * rate_hz / hz) as usize);
        let near = self.tools.transforms.strongest(centre(&samples, searched), rate_hz).unwrap_or(hz);
        let Some(found) = tone(&mut self.tools, &samples, rate_hz, near) else { return Ok(bare) };
        // The level of all of it, not only of the window that was fitted.
        let rms = if to - from > most { bare.rms } else { found.rms };
        Ok(self.filled(channel, bare, &Tone { rms, ..found }))
    }

    pub(super) fn burst(
        &mut self,
        channel: usize,
        piece: Piece,
        hz: f64,
        before_db: Option<f64>,
        bare: Stretch,
    ) -> Result<Stretch, SourceError> {
        let (hop, rate_hz) = (self.levels.hop, self.rate_hz());
        let room = (4.0 * rate_hz / hz) as usize + 64;
        let start = (piece.from * hop).saturating_sub(room);
        let samples = self.window(channel, start as u64, piece.to * hop + room - start)?;
        let rough = (piece.from * hop - start, piece.to * hop - start);
        let Some(found) = burst(&self.tools, &samples, rate_hz, hz, rough) else { return Ok(bare) };
        let whole = &samples[(found.from.round() as usize).min(samples.len())..(found.to.round() as usize).min(samples.len())];
        let stretch = match tone(&mut self.tools, whole, rate_hz, found.hz) {
            Some(tone) => self.filled(channel, bare, &tone),
            None => bare,
        };
        let (first, last) = (found.each.first().copied(), found.each.last().copied());
        let peak = found.each.iter().map(|cycle| cycle.peak).fold(0.0, f64::max);
        let droop = first.zip(last).filter(|_| found.cycles > 1).map(|(first, last)| 20.0 * (last.peak / first.peak).log10());
        Ok(Stretch {
            from_s: self.seconds(start as f64 + found.from),
            to_s: self.seconds(start as f64 + found.to),
            frequency_hz: Some(found.hz),
            peak: if peak > 0.0 { peak } else { stretch.peak },
            cycles: Some(found.cycles),
            sustained: first.zip(last).map(|(a, b): (Cycle, Cycle)| if b.rms < a.rms { b } else { a }),
            best: first.zip(last).map(|(a, b)| if b.rms < a.rms { a } else { b }),
            first,
            last,
            each: Some(found.each),
            droop_db: droop.filter(|db| db.is_finite()),
            over_between_db: before_db.filter(|db| *db > -50.0).map(|db| piece.level_db - db),
            ..stretch
        })
    }

    /// Windows of a ramp, each with its power and its distortion.
    pub(super) fn ramp(&mut self, channel: usize, piece: Piece, hz: f64, bare: Stretch) -> Result<Stretch, SourceError> {
        let (hop, rate_hz) = (self.levels.hop, self.rate_hz());
        let wide = ramp::window(hz, rate_hz);
        let (from, to) = (piece.from * hop, piece.to * hop);
        // The frequency from where it is loud and clean: its last quarter is loudest, of a rising ramp.
        let quarter = (to - from) / 4;
        let samples = self.window(channel, (to - quarter) as u64, quarter.min(SEARCHED))?;
        let near = self.tools.transforms.strongest(&samples, rate_hz).unwrap_or(hz);
        let hz = harmonics::tone(&samples, rate_hz, near).map_or(near, |tone| tone.hz);
        let load = self.asked.load_ohm.filter(|_| self.setting(channel).kind == ChannelKind::Output);
        let growing = ramp::Window::new(wide, rate_hz, hz);
        let mut points: Vec<LevelPoint> = Vec::new();
        let mut at = from;
        // Read in long pieces: a window at a time would ask the file for each sample twice.
        while at + wide <= to {
            let piece = self.window(channel, at as u64, (32 * wide).min(to - at))?;
            let mut inside = 0;
            while inside + wide <= piece.len() {
                let middle = self.seconds((at + inside) as f64 + wide as f64 / 2.0);
                points.extend(
                    growing.as_ref().and_then(|growing| growing.point(&mut self.tools, &piece[inside..inside + wide], middle, load)),
                );
                inside += (wide / 2).max(1);
            }
            if inside == 0 {
                break;
            }
            at += inside;
        }
        let certified = ramp::certified(&points, self.asked.limit_ratio);
        let top = points.iter().max_by(|a, b| a.rms.total_cmp(&b.rms)).copied();
        Ok(Stretch {
            frequency_hz: Some(hz),
            thd_n_ratio: top.and_then(|top| top.thd_n_ratio),
            clipped: top.map(|top| top.thd_n_ratio.is_some_and(|thd| thd > self.asked.limit_ratio)),
            power_w: top.and_then(|top| top.power_w),
            power_u_w: self.power_u_w(channel, top.and_then(|top| top.power_w)),
            points: Some(points),
            certified,
            ..bare
        })
    }

    pub(super) fn sweep(&mut self, channel: usize, piece: Piece, bare: Stretch) -> Result<Stretch, SourceError> {
        let (from, to) = (piece.from * self.levels.hop, piece.to * self.levels.hop);
        let generator =
            (0..self.source.recording().channels).find(|other| *other != channel && self.setting(*other).kind == ChannelKind::Generator);
        // A few periods at a time of what is heard just there, and long windows to begin with.
        let rate_hz = self.rate_hz();
        let (mut levels, mut crosses) = (Vec::new(), Vec::new());
        let longest = ((SWEEP_LONGEST_S * rate_hz) as usize).min(to - from).max(1);
        let mut wide = longest;
        let mut at = from;
        while at + wide <= to && levels.len() < SWEEP_WINDOWS {
            let samples = self.window(channel, at as u64, wide)?;
            let played = generator.map(|generator| self.window(generator, at as u64, wide)).transpose()?;
            // A filter may leave little of a tone that the generator plays all along.
            if let Some(near) = self.tools.transforms.strongest(played.as_deref().unwrap_or(&samples), rate_hz) {
                let heard = fit(played.as_deref().unwrap_or(&samples), rate_hz, near).map_or(near, |sine| sine.hz);
                levels.push((heard, distortion::rms_over_periods(samples.len() as f64, &samples, 0.0)));
                crosses.extend(played.map(|played| Cross::new(&played, &samples, rate_hz, heard)));
                wide = ((SWEEP_PERIODS * rate_hz / heard) as usize).clamp(64.min(longest), longest);
            }
            at += (wide / 2).max((to - from) / SWEEP_WINDOWS).max(1);
        }
        let response = match generator {
            Some(_) => response::against_generator(transfer::points(crosses)),
            None => response::against_one_kilohertz(levels),
        };
        Ok(Stretch { response, ..bare })
    }
}
