//! What several stretches say together: bursts averaged, outputs added up, tones of several frequencies as a response.

use crate::cut::StretchKind;
use crate::report::{ChannelKind, ChannelReport, Cycle, RepeatedBursts, Response, Stretch, Together};
use crate::response;

/// Bursts whose levels are further apart than this are no repeats of one another.
const ALIKE_DB: f64 = 1.0;
/// Nor are bursts whose frequencies differ by more than this part.
const ALIKE_HZ: f64 = 0.02;
/// Tones at most this far apart in frequency are one frequency.
const ONE_FREQUENCY: f64 = 0.02;
/// Frequencies at least that make a response.
const FREQUENCIES: usize = 3;

fn db(ratio: f64) -> f64 {
    20.0 * ratio.log10()
}

/// Bursts of the same cycles, frequency and level, averaged.
pub fn repeats(stretches: &[Stretch]) -> Vec<RepeatedBursts> {
    let alike = |a: &Stretch, b: &Stretch| {
        let near = |a: Option<f64>, b: Option<f64>| a.zip(b).is_some_and(|(a, b)| (a / b - 1.0).abs() < ALIKE_HZ);
        a.cycles == b.cycles && near(a.frequency_hz, b.frequency_hz) && db(a.rms / b.rms).abs() < ALIKE_DB
    };
    let mut groups: Vec<Vec<&Stretch>> = Vec::new();
    for burst in stretches.iter().filter(|stretch| stretch.kind == StretchKind::Burst && stretch.first.is_some()) {
        match groups.iter_mut().find(|group| group.first().is_some_and(|first| alike(first, burst))) {
            Some(group) => group.push(burst),
            None => groups.push(vec![burst]),
        }
    }
    groups.iter().filter(|group| group.len() > 1).filter_map(|group| averaged(group)).collect()
}

fn averaged(group: &[&Stretch]) -> Option<RepeatedBursts> {
    let n = group.len() as f64;
    let mean = |of: &dyn Fn(&Stretch) -> Option<f64>| Some(group.iter().map(|burst| of(burst)).sum::<Option<f64>>()? / n);
    let squares = |of: &dyn Fn(&Stretch) -> Option<f64>| mean(&|burst| of(burst).map(|x| x * x)).map(f64::sqrt);
    let cycle = |of: &dyn Fn(&Stretch) -> Option<Cycle>| {
        Some(Cycle { peak: mean(&|burst| of(burst).map(|cycle| cycle.peak))?, rms: squares(&|burst| of(burst).map(|cycle| cycle.rms))? })
    };
    let (first, last) = (cycle(&|burst| burst.first)?, cycle(&|burst| burst.last)?);
    let (least, most) = group.iter().fold((f64::INFINITY, 0.0f64), |(low, high), burst| (low.min(burst.rms), high.max(burst.rms)));
    let cycles = group.first()?.cycles?;
    Some(RepeatedBursts {
        cycles,
        count: group.len(),
        frequency_hz: mean(&|burst| burst.frequency_hz)?,
        rms: squares(&|burst| Some(burst.rms))?,
        peak: mean(&|burst| Some(burst.peak))?,
        power_w: mean(&|burst| burst.power_w),
        droop_db: (cycles > 1).then(|| db(last.peak / first.peak)).filter(|db| db.is_finite()),
        first,
        last,
        spread_db: db(most / least),
    })
}

/// Outputs whose stretches of one kind lie at the same time: what they make together.
pub fn together(channels: &[ChannelReport]) -> Vec<Together> {
    let outputs: Vec<&ChannelReport> = channels.iter().filter(|channel| channel.kind == ChannelKind::Output).collect();
    let Some((first, others)) = outputs.split_first().filter(|(_, others)| !others.is_empty()) else { return Vec::new() };
    let mut found = Vec::new();
    for stretch in first.stretches.iter().filter(|stretch| stretch.kind != StretchKind::Quiet) {
        let beside = |other: &&&ChannelReport| -> Option<(usize, Stretch)> {
            let same = |one: &&Stretch| {
                let shared = one.to_s.min(stretch.to_s) - one.from_s.max(stretch.from_s);
                one.kind == stretch.kind && shared > 0.5 * (one.to_s - one.from_s).max(stretch.to_s - stretch.from_s)
            };
            other.stretches.iter().find(same).map(|one| (other.channel, one.clone()))
        };
        let mut all = vec![(first.channel, stretch.clone())];
        all.extend(others.iter().filter_map(|other| beside(&other)));
        if all.len() < 2 {
            continue;
        }
        let (least, most) = all.iter().fold((f64::INFINITY, 0.0f64), |(low, high), (_, one)| (low.min(one.rms), high.max(one.rms)));
        found.push(Together {
            from_s: stretch.from_s,
            to_s: stretch.to_s,
            channels: all.iter().map(|(channel, _)| *channel).collect(),
            power_w: all.iter().map(|(_, one)| one.power_w).sum(),
            balance_db: db(most / least),
        });
    }
    found
}

/// The response out of tones of several frequencies, one behind another: against the generator where it plays, else against 1 kHz.
pub fn responses(channels: &mut [ChannelReport]) {
    let generator = channels.iter().find(|channel| channel.kind == ChannelKind::Generator).cloned();
    for channel in channels.iter_mut().filter(|channel| channel.kind == ChannelKind::Output) {
        channel.response = of_tones(&channel.stretches, generator.as_ref());
    }
}

fn of_tones(stretches: &[Stretch], generator: Option<&ChannelReport>) -> Option<Response> {
    let tones = |stretches: &[Stretch]| -> Vec<(f64, f64, f64)> {
        let tones = stretches.iter().filter(|stretch| stretch.kind == StretchKind::Tone);
        tones.filter_map(|tone| Some((f64::midpoint(tone.from_s, tone.to_s), tone.frequency_hz?, tone.fundamental_rms?))).collect()
    };
    let heard = tones(stretches);
    let mut frequencies: Vec<f64> = heard.iter().map(|tone| tone.1).collect();
    frequencies.sort_by(f64::total_cmp);
    frequencies.dedup_by(|a, b| (*a / *b - 1.0).abs() < ONE_FREQUENCY);
    if frequencies.len() < FREQUENCIES {
        return None;
    }
    let Some(generator) = generator else { return response::against_one_kilohertz(heard.iter().map(|tone| (tone.1, tone.2)).collect()) };
    let played = |at_s: f64, hz: f64| {
        let there = generator.stretches.iter().find(|stretch| stretch.from_s <= at_s && at_s <= stretch.to_s)?;
        let alike = there.frequency_hz.is_some_and(|played| (played / hz - 1.0).abs() < ONE_FREQUENCY);
        there.fundamental_rms.filter(|rms| alike && *rms > 0.0)
    };
    let gains = heard.iter().filter_map(|(at_s, hz, rms)| Some((*hz, rms / played(*at_s, *hz)?))).collect();
    response::against_generator(response::in_order(gains))
}
