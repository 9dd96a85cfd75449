//! The wave of a burst, as the analyser captured it: each burst's power and distortion over its whole cycles.

use std::ops::ControlFlow;
use std::sync::{Mutex, PoisonError};
use std::time::Duration;

use pukka_core::instruments::{Capture, Filling, Role, fill};
use pukka_core::kernel::units::Level;
use pukka_core::live::{BurstReading, Stop};
use pukka_core::traces::{ChannelKind, ChannelSetting, TraceSettings};
use tokio::time::Instant;

use crate::instruments::Link;

/// Length of a capture: two bursts of half a second each, and a little.
const MS: u64 = 1_080;
/// A burst comes twice a second: more often there is nothing new.
const EVERY: Duration = Duration::from_millis(450);
/// After a change of level, when the last whole burst is one of that level: a period and the longest burst.
const WHOLE: Duration = Duration::from_millis(1_050);

/// Captures as they are asked for, and what the last one said.
pub struct Waves {
    capture: Capture,
    outputs: usize,
    load_ohm: f64,
    /// Cycles are counted: the lower of the first and the last is the burst's power.
    counted: bool,
    last: Option<(Instant, BurstReading)>,
    /// The level that is played, and since when.
    level: Option<(Option<Level>, Instant)>,
}

impl Waves {
    pub const fn new(capture: Capture, outputs: usize, load_ohm: f64, counted: bool) -> Self {
        Self { capture, outputs, load_ohm, counted, last: None, level: None }
    }

    /// The last whole burst of this level; nothing while it cannot be over yet. Time counts from the first round that was begun at
    /// the level, however late that was: a burst of the level before must never pass for one of this.
    ///
    /// # Errors
    /// The stop that an analyser which does not answer, or sends no wave with a burst in it, comes to.
    pub async fn read(waves: &Mutex<Self>, analyser: &Link, level_db: Option<Level>) -> Result<Option<BurstReading>, Stop> {
        let lock = || waves.lock().unwrap_or_else(PoisonError::into_inner);
        let (query, outputs, asked) = {
            let mut own = lock();
            if own.level.is_none_or(|(level, _)| level != level_db) {
                (own.level, own.last) = (Some((level_db, Instant::now())), None);
            }
            // A capture that reaches back before the change of level says nothing of this one: it is not even asked for.
            if own.level.is_some_and(|(_, since)| since.elapsed() < WHOLE) {
                return Ok(None);
            }
            if let Some((at, reading)) = &own.last
                && at.elapsed() < EVERY
            {
                return Ok(Some(reading.clone()));
            }
            (
                fill(&own.capture.query, Filling { ms: MS, output: 1, ..Filling::default() }),
                (own.outputs, own.counted, own.load_ohm),
                own.settings(),
            )
        };
        let bytes = analyser.ask_block(query).await.map_err(|_| Stop::LinkLost { role: Role::Analyser })?;
        let read = tokio::task::spawn_blocking(move || burst(bytes, &asked, outputs)).await;
        let reading = read.map_err(|_| Stop::Broken)?.map_err(|says| Stop::BadReading { role: Role::Analyser, says })?;
        lock().last = Some((Instant::now(), reading.clone()));
        Ok(Some(reading))
    }

    fn settings(&self) -> TraceSettings {
        let output = ChannelSetting::new(ChannelKind::Output, self.capture.full_scale_v);
        // What a capture holds beside the outputs, the supply among others, is read by its own meters.
        let unused = ChannelSetting::new(ChannelKind::Unused, 1.0);
        let channels = std::iter::repeat_n(output, self.outputs).chain(std::iter::repeat_n(unused, 8)).collect();
        TraceSettings { channels, load_ohm: Some(self.load_ohm), ..TraceSettings::default() }
    }
}

fn burst(bytes: Vec<u8>, asked: &TraceSettings, (outputs, counted, load_ohm): (usize, bool, f64)) -> Result<BurstReading, String> {
    let mut source = pukka_capture::open_wav(bytes).map_err(|why| format!("sent a capture that cannot be read: {why}"))?;
    let report = pukka_core::traces::read(source.as_mut(), asked, &mut |_| ControlFlow::Continue(()))
        .map_err(|why| format!("sent a capture that cannot be read: {why}"))?;
    Ok(BurstReading::of(&report, outputs, counted.then_some(load_ohm)))
}
