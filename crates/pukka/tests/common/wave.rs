//! A recording as a recorder writes it.

#![allow(dead_code, reason = "each test file uses its own part")]

use std::f64::consts::TAU;

pub const RATE: f64 = 48_000.0;

/// A WAV of two channels, floats of a full scale of 100 V and 20 V: a clean 40 Hz, the supply; with a note of its recorder.
pub fn wav(volts: impl Fn(f64) -> f64) -> Vec<u8> {
    let samples: Vec<u8> =
        (0..RATE as usize).flat_map(|n| [volts(n as f64 / RATE) / 100.0, 13.9 / 20.0]).flat_map(|x| (x as f32).to_le_bytes()).collect();
    let chunk = |word: &[u8; 4], content: &[u8]| [&word[..], &(content.len() as u32).to_le_bytes(), content].concat();
    let format = [3u16.to_le_bytes(), 2u16.to_le_bytes()].concat();
    let format = [&format[..], &48_000u32.to_le_bytes(), &384_000u32.to_le_bytes(), &8u16.to_le_bytes(), &32u16.to_le_bytes()].concat();
    let content = [b"WAVE".to_vec(), chunk(b"LIST", b"SECRET place"), chunk(b"fmt ", &format), chunk(b"data", &samples)].concat();
    [&b"RIFF"[..], &(content.len() as u32).to_le_bytes(), &content].concat()
}

pub fn clean(t: f64) -> f64 {
    59.0 * (TAU * 40.0 * t).sin()
}
