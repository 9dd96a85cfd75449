//! What recorders and oscilloscopes really write: read exactly, or refused with the place.

#![allow(clippy::unwrap_used, reason = "a test that cannot set itself up has failed")]

use std::f64::consts::TAU;
use std::ops::ControlFlow;
use std::path::{Path, PathBuf};

use hound::{SampleFormat, WavSpec, WavWriter};
use proptest::prelude::*;
use pukka_capture::{CaptureError, open};
use pukka_waves::levels::levels;
use pukka_waves::{Source, SourceError, TraceReport, TraceSettings, read};
use tempfile::TempDir;

fn tone(n: usize, rate: f64) -> Vec<f64> {
    (0..n).map(|i| 0.5 * (TAU * 1_000.0 * i as f64 / rate).sin()).collect()
}

fn wav(folder: &Path, bits: u16, format: SampleFormat, channels: u16, rate: u32, samples: &[f64]) -> PathBuf {
    let path = folder.join(format!("{bits}-{channels}-{rate}.wav"));
    let mut writer =
        WavWriter::create(&path, WavSpec { channels, sample_rate: rate, bits_per_sample: bits, sample_format: format }).unwrap();
    for x in samples {
        for _ in 0..channels {
            match format {
                SampleFormat::Float => writer.write_sample(*x as f32).unwrap(),
                SampleFormat::Int => writer.write_sample((x * f64::from(1u32 << (bits - 1))).round() as i32).unwrap(),
            }
        }
    }
    writer.finalize().unwrap();
    path
}

fn blocks(source: &mut dyn Source) -> Result<Vec<Vec<f32>>, SourceError> {
    let from = |source: &mut dyn Source, frame: u64| {
        let mut all: Vec<Vec<f32>> = vec![Vec::new(); source.recording().channels];
        source.blocks(frame, &mut |block| {
            all.iter_mut().zip(block).for_each(|(own, new)| own.extend(new));
            ControlFlow::Continue(())
        })?;
        Ok(all)
    };
    let all = from(source, 0)?;
    // From any other frame on it is the same recording.
    for frame in [1, 137, source.recording().frames * 2 / 3] {
        let behind = from(source, frame)?;
        assert!(all.iter().zip(behind).all(|(all, behind)| all.get(frame as usize..).unwrap_or_default() == behind), "from {frame}");
    }
    Ok(all)
}

fn report(path: &Path) -> TraceReport {
    read(open(path).unwrap().as_mut(), &TraceSettings::default(), &mut |_| ControlFlow::Continue(())).unwrap()
}

#[test]
fn every_depth_rate_and_count_of_channels_comes_out_as_it_went_in() {
    let folder = TempDir::new().unwrap();
    for (bits, format, step) in
        [(16, SampleFormat::Int, 3e-5), (24, SampleFormat::Int, 1.2e-7), (32, SampleFormat::Int, 1e-7), (32, SampleFormat::Float, 1e-7)]
    {
        for (channels, rate) in [(1, 48_000), (8, 8_000), (2, 1_000_000)] {
            let samples = tone(3_000, f64::from(rate));
            let path = wav(folder.path(), bits, format, channels, rate, &samples);
            let mut source = open(&path).unwrap();
            let recording = source.recording();
            assert_eq!((recording.channels, recording.frames, recording.rate_hz), (usize::from(channels), 3_000, f64::from(rate)));
            assert_eq!(recording.bits, (format == SampleFormat::Int).then_some(u32::from(bits)));
            let all = blocks(source.as_mut()).unwrap();
            assert!(all.iter().all(|own| own.len() == 3_000 && own.iter().zip(&samples).all(|(a, b)| (f64::from(*a) - b).abs() < step)));
            // A window out of the middle, backwards and forwards.
            for from in [2_000u64, 17, 1_500] {
                let window = source.window(usize::from(channels) - 1, from, 700).unwrap();
                assert_eq!(window.len(), 700);
                assert!(window.iter().zip(&samples[from as usize..]).all(|(a, b)| (a - b).abs() < step), "{bits} bits, from {from}");
            }
            assert_eq!(source.window(0, 2_900, 700).unwrap().len(), 100, "what is behind the end is not there");
        }
    }
}

#[test]
fn a_tone_out_of_a_file_is_measured() {
    let folder = TempDir::new().unwrap();
    let report = report(&wav(folder.path(), 24, SampleFormat::Int, 2, 96_000, &tone(96_000, 96_000.0)));
    let stretch = &report.channels[1].stretches[0];
    assert!((stretch.rms - 0.353_553).abs() < 1e-5 && (stretch.frequency_hz.unwrap() - 1_000.0).abs() < 1e-3);
    assert!(stretch.thd_ratio.unwrap() < 1e-6);
}

/// A sound WAV with one change made to its bytes.
fn spoiled(change: impl FnOnce(&mut Vec<u8>)) -> (TempDir, PathBuf) {
    let folder = TempDir::new().unwrap();
    let path = wav(folder.path(), 16, SampleFormat::Int, 2, 48_000, &tone(100, 48_000.0));
    let mut bytes = std::fs::read(&path).unwrap();
    change(&mut bytes);
    std::fs::write(&path, bytes).unwrap();
    (folder, path)
}

fn refused(change: impl FnOnce(&mut Vec<u8>)) -> (u64, String) {
    let (_folder, path) = spoiled(change);
    match open(&path).err().unwrap() {
        CaptureError::AtByte { at, says } => (at, says),
        other => panic!("{other:?}"),
    }
}

#[test]
fn headers_that_cannot_be_are_refused_with_their_byte() {
    let put = |at: usize, value: u32| move |bytes: &mut Vec<u8>| bytes[at..at + 4].copy_from_slice(&value.to_le_bytes());
    for (size, words) in [(0, "0 bytes"), (u32::MAX, "4294967295 bytes")] {
        let (at, says) = refused(put(4, size));
        assert!(at == 4 && says.contains(words), "{says}");
    }
    assert_eq!(
        refused(put(40, 0)),
        (40, "The header gives the data 0 bytes, and 400 follow: the recorder was stopped before it could write how many.".into())
    );
    assert_eq!(refused(put(40, u32::MAX)).0, 40);
    assert_eq!(refused(put(40, 500)), (444, "The file ends here: its header promises 500 bytes of data, and 400 are there.".into()));
    assert_eq!(refused(put(40, 399)).1, "399 bytes are no whole number of frames of 4 bytes.");
    assert_eq!(refused(put(24, 0)), (24, "0 samples a second: 8 kHz to 1 MHz are read.".into()));
    assert_eq!(refused(|bytes| bytes[22] = 0), (22, "0 channels: 1 to 8 are read.".into()));
    assert_eq!(refused(|bytes| bytes[20] = 2), (20, "Samples of format 2 are compressed: only whole numbers and floats are read.".into()));
    assert_eq!(refused(|bytes| bytes.truncate(10)), (10, "The file ends inside its header.".into()));
    assert_eq!(refused(|bytes| bytes.truncate(30)).1, "The “fmt” chunk has 16 bytes: 16 at least.");
    assert_eq!(refused(|bytes| bytes.truncate(36)).1, "The file ends without a “data” chunk.");
    assert_eq!(refused(|bytes| bytes[..4].copy_from_slice(b"RF64")).0, 0);
    assert_eq!(refused(Vec::clear), (0, "The file is empty.".into()));
    assert_eq!(refused(|bytes| *bytes = vec![0xFF, 0xFE, b't', 0]).1, "It is UTF-16: save it as UTF-8, or as plain text.");
    assert_eq!(refused(|bytes| *bytes = vec![1, 2, 0, 4]).0, 2);
}

#[test]
fn odd_chunks_and_one_sample_are_read() {
    let with_junk = |bytes: &mut Vec<u8>| {
        // A chunk of odd size, with its padding, before the data.
        let junk: Vec<u8> = [b"junk".as_slice(), &5u32.to_le_bytes(), b"note!", &[0]].concat();
        bytes.splice(36..36, junk);
        let size = bytes.len() as u32 - 8;
        bytes[4..8].copy_from_slice(&size.to_le_bytes());
    };
    let (_folder, path) = spoiled(with_junk);
    assert_eq!(blocks(open(&path).unwrap().as_mut()).unwrap()[1].len(), 100);
    let folder = TempDir::new().unwrap();
    assert_eq!(report(&wav(folder.path(), 16, SampleFormat::Int, 1, 48_000, &[0.5])).channels.len(), 1);
}

/// A tone of 16 bits in another wrapping.
fn wrapped(head: Vec<u8>, big_endian: bool) -> (TempDir, PathBuf) {
    let folder = TempDir::new().unwrap();
    let path = folder.path().join("wrapped");
    let whole = |x: f64| (x * 32_768.0).round() as i16;
    let samples = tone(4_800, 48_000.0).into_iter().flat_map(|x| if big_endian { whole(x).to_be_bytes() } else { whole(x).to_le_bytes() });
    std::fs::write(&path, head.into_iter().chain(samples).collect::<Vec<u8>>()).unwrap();
    (folder, path)
}

fn is_the_tone(path: &Path) {
    let mut source = open(path).unwrap();
    let recording = source.recording();
    assert_eq!((recording.rate_hz, recording.channels, recording.frames, recording.bits), (48_000.0, 1, 4_800, Some(16)));
    let all = blocks(source.as_mut()).unwrap();
    assert!(all[0].iter().zip(tone(4_800, 48_000.0)).all(|(a, b)| (f64::from(*a) - b).abs() < 3e-5));
    assert_eq!(source.window(0, 4_000, 10).unwrap().len(), 10);
}

#[test]
fn aiff_and_caf_are_read_too() {
    let data = 9_600u32;
    // Sampling rate as an 80-bit float: 48 000 = 1.46484375 · 2^15.
    let rate = [0x40, 0x0E, 0xBB, 0x80, 0, 0, 0, 0, 0, 0];
    let common = [&18u32.to_be_bytes()[..], &1u16.to_be_bytes(), &4_800u32.to_be_bytes(), &16u16.to_be_bytes(), &rate].concat();
    let sound = [&(data + 8).to_be_bytes()[..], &[0; 8]].concat();
    let size = (4 + 8 + 18 + 8 + 8 + data).to_be_bytes();
    let aiff = [b"FORM", &size[..], b"AIFF", b"COMM", &common, b"SSND", &sound].concat();
    let (_folder, path) = wrapped(aiff, true);
    is_the_tone(&path);

    let description = [
        &48_000f64.to_be_bytes()[..],
        b"lpcm",
        &0u32.to_be_bytes(),
        &2u32.to_be_bytes(),
        &1u32.to_be_bytes(),
        &1u32.to_be_bytes(),
        &16u32.to_be_bytes(),
    ]
    .concat();
    let caf = [
        b"caff".as_slice(),
        &1u16.to_be_bytes(),
        &[0, 0],
        b"desc",
        &32u64.to_be_bytes(),
        &description,
        b"data",
        &u64::from(data + 4).to_be_bytes(),
        &[0; 4],
    ]
    .concat();
    let (_folder, path) = wrapped(caf, true);
    is_the_tone(&path);
}

/// Bits written one behind the other, the highest first.
#[derive(Default)]
struct Bits(Vec<u8>, u32);

impl Bits {
    fn put(&mut self, value: u64, bits: u32) {
        for bit in (0..bits).rev() {
            if self.1.is_multiple_of(8) {
                self.0.push(0);
            }
            let last = self.0.len() - 1;
            self.0[last] |= (((value >> bit) & 1) as u8) << (7 - self.1 % 8);
            self.1 += 1;
        }
    }
}

/// A cyclic check as FLAC has it: x⁸ + x² + x + 1 of its headers, x¹⁶ + x¹⁵ + x² + 1 of its frames.
fn cyclic(bytes: &[u8], polynomial: u32, bits: u32) -> u64 {
    let top = 1u32 << (bits - 1);
    let mask = top | (top - 1);
    let step = |crc: u32, byte: &u8| {
        (0..8).fold(crc ^ (u32::from(*byte) << (bits - 8)), |crc, _| if crc & top == 0 { crc << 1 } else { (crc << 1) ^ polynomial } & mask)
    };
    u64::from(bytes.iter().fold(0, step))
}

#[test]
fn flac_is_read_sample_by_sample() {
    let samples: Vec<i16> = tone(4_800, 48_000.0).into_iter().map(|x| (x * 32_768.0).round() as i16).collect();
    let mut file = Bits::default();
    for byte in b"fLaC" {
        file.put(u64::from(*byte), 8);
    }
    // The only block of metadata: least and most samples of a frame, sizes not known, rate, channels − 1, bits − 1, samples, no MD5.
    for (value, bits) in
        [(0x80, 8), (34, 24), (1_600, 16), (1_600, 16), (0, 24), (0, 24), (48_000, 20), (0, 3), (15, 5), (4_800, 36), (0, 64), (0, 64)]
    {
        file.put(value, bits);
    }
    let mut bytes = file.0;
    for (number, block) in samples.chunks(1_600).enumerate() {
        let mut frame = Bits::default();
        // Sync, fixed blocks of a size of 16 bits, 48 kHz, one channel, 16 bits; the frame's number; the size less one.
        for (value, bits) in [(0x3FFE, 14), (0, 2), (0b0111, 4), (0b1010, 4), (0, 4), (0b100, 3), (0, 1), (number as u64, 8), (1_599, 16)] {
            frame.put(value, bits);
        }
        let check = cyclic(&frame.0, 0x07, 8);
        frame.put(check, 8);
        // One subframe, verbatim.
        frame.put(0b0000_0010, 8);
        for sample in block {
            frame.put(u64::from(*sample as u16), 16);
        }
        let check = cyclic(&frame.0, 0x8005, 16);
        frame.put(check, 16);
        bytes.extend(frame.0);
    }
    let folder = TempDir::new().unwrap();
    let path = folder.path().join("tone.flac");
    std::fs::write(&path, &bytes).unwrap();
    is_the_tone(&path);
    std::fs::write(&path, &bytes[..bytes.len() - 1_000]).unwrap();
    let cut = open(&path).map_err(|why| why.to_string()).and_then(|mut source| blocks(source.as_mut()).map_err(|why| why.to_string()));
    assert!(cut.is_err(), "a file that breaks off is refused");
}

#[test]
fn nan_and_infinity_are_refused_with_their_time() {
    for (bad, what) in [(f32::NAN, "NaN"), (f32::INFINITY, "infinity")] {
        let folder = TempDir::new().unwrap();
        let path = folder.path().join("bad.wav");
        let spec = WavSpec { channels: 2, sample_rate: 48_000, bits_per_sample: 32, sample_format: SampleFormat::Float };
        let mut writer = WavWriter::create(&path, spec).unwrap();
        for n in 0..4_800 {
            writer.write_sample(0.1f32).unwrap();
            writer.write_sample(if n == 2_400 { bad } else { 0.1 }).unwrap();
        }
        writer.finalize().unwrap();
        let refused = blocks(open(&path).unwrap().as_mut()).unwrap_err();
        assert_eq!(refused, SourceError::NotFinite { channel: 2, at_s: "0.050000".into(), what });
    }
}

/// Long enough for a thread of its own for either half.
const LONG: usize = 400_000;

#[test]
fn halves_that_are_read_at_once_are_one_recording() {
    let folder = TempDir::new().unwrap();
    // Full scale is touched across the middle, and at the very end, behind the last whole quarter millisecond.
    let touches = |n: usize| (LONG / 2 - 20..LONG / 2 + 20).contains(&n) || n == LONG - 1;
    let wave: Vec<f64> =
        tone(LONG, 192_000.0).iter().enumerate().map(|(n, x)| if touches(n) { 32_767.0 / 32_768.0 } else { 0.8 * x + 0.05 }).collect();
    let path = wav(folder.path(), 16, SampleFormat::Int, 2, 192_000, &wave);
    let mut heard = Vec::new();
    let found = levels(open(&path).unwrap().as_mut(), &mut |frames| {
        heard.push(frames);
        ControlFlow::Continue(())
    });
    let found = &found.unwrap().channels[1];
    assert!(heard.is_sorted() && heard.last().is_some_and(|frames| *frames <= LONG as u64));
    assert_eq!(found.hops.len(), LONG / 48);
    let over: Vec<(u64, u64)> = found.over.iter().map(|span| (span.from, span.to)).collect();
    assert_eq!(over, [(LONG as u64 / 2 - 20, LONG as u64 / 2 + 20), (LONG as u64 - 1, LONG as u64)]);
    // Each piece as its own samples say, and those around it.
    let read = |x: f64| (x * 32_768.0).round() / 32_768.0;
    for (k, hop) in found.hops.iter().enumerate() {
        let own = || wave[48 * k..48 * (k + 1)].iter().map(|x| read(*x));
        assert_eq!((f64::from(hop.low), f64::from(hop.high)), (own().fold(9.0, f64::min), own().fold(-9.0, f64::max)), "piece {k}");
        let around = &wave[(48 * k).saturating_sub(2)..48 * (k + 1)];
        let bend = around.windows(3).map(|three| (read(three[2]) - 2.0 * read(three[1]) + read(three[0])).abs()).fold(0.0, f64::max);
        assert!((f64::from(hop.bend) - bend).abs() < 1e-6, "piece {k}: {} and {bend}", hop.bend);
        assert!((found.mean(k, k + 1, 48) - own().sum::<f64>() / 48.0).abs() < 1e-6, "piece {k}");
    }
}

#[test]
fn what_is_wrong_in_either_half_is_said_and_a_stop_ends_both() {
    let folder = TempDir::new().unwrap();
    for at in [LONG / 4, LONG * 3 / 4] {
        let path = folder.path().join(format!("{at}.wav"));
        let spec = WavSpec { channels: 1, sample_rate: 100_000, bits_per_sample: 32, sample_format: SampleFormat::Float };
        let mut writer = WavWriter::create(&path, spec).unwrap();
        for n in 0..LONG {
            writer.write_sample(if n == at { f32::NAN } else { 0.1f32 }).unwrap();
        }
        writer.finalize().unwrap();
        let refused = levels(open(&path).unwrap().as_mut(), &mut |_| ControlFlow::Continue(())).unwrap_err();
        assert_eq!(refused, SourceError::NotFinite { channel: 1, at_s: format!("{}.000000", at / 100_000), what: "NaN" });
    }
    let path = wav(folder.path(), 16, SampleFormat::Int, 2, 192_000, &tone(LONG, 192_000.0));
    let mut heard = 0;
    let stopped = levels(open(&path).unwrap().as_mut(), &mut |_| {
        heard += 1;
        ControlFlow::Break(())
    });
    assert_eq!((stopped.unwrap_err(), heard), (SourceError::Stopped, 1));
}

fn csv(text: &str) -> (TempDir, PathBuf) {
    let folder = TempDir::new().unwrap();
    let path = folder.path().join("scope.csv");
    std::fs::write(&path, text).unwrap();
    (folder, path)
}

fn rows(n: usize, row: impl Fn(usize) -> String) -> String {
    (0..n).map(row).collect::<Vec<_>>().join("\n")
}

#[test]
fn scopes_of_every_make_of_csv() {
    let wave = |n: usize| 20.0 * (TAU * n as f64 / 100.0).sin();
    let comma = |x: f64| format!("{x:.6}").replace('.', ",");
    let texts = [
        format!("Time,Channel A\n(s),(V)\n\n{}", rows(400, |n| format!("{:.7},{:.6}", n as f64 * 1e-5, wave(n)))),
        format!("time (ms);CH1 (mV)\n{}", rows(400, |n| format!("{};{}", comma(n as f64 * 1e-2), comma(wave(n) * 1e3)))),
        format!("Record Length,400,,\nSample Interval,1.0E-05,,\nVertical Units,V,,\n\n{}", rows(400, |n| format!("{:.6}", wave(n)))),
        format!(
            "\u{feff}\"second\"\t\"Volt\"\r\n{}\r\n",
            rows(400, |n| format!("{:E}\t{:E}", n as f64 * 1e-5 - 0.002, wave(n))).replace('\n', "\r\n")
        ),
        format!("Sampling rate: 100 kSa/s\nCH1\n{}", rows(400, |n| format!("{:.6}", wave(n)))),
        rows(400, |n| format!("{:.8}, {:.6}", n as f64 * 1e-5, wave(n))),
    ];
    for (i, text) in texts.iter().enumerate() {
        let (_folder, path) = csv(text);
        let mut source = open(&path).unwrap_or_else(|why| panic!("{i}: {why}"));
        let recording = source.recording();
        assert!((recording.rate_hz / 100_000.0 - 1.0).abs() < 1e-6, "{i}: {}", recording.rate_hz);
        assert_eq!((recording.frames, recording.channels, recording.full_scale), (400, 1, None), "{i}");
        let window = source.window(0, 25, 50).unwrap();
        assert!(window.iter().enumerate().all(|(n, x)| (x - wave(n + 25)).abs() < 1e-4), "{i}: {window:?}");
        assert_eq!(blocks(source.as_mut()).unwrap()[0].len(), 400, "{i}");
    }
}

fn at_line(text: &str) -> (u64, Option<usize>, String) {
    let (_folder, path) = csv(text);
    match open(&path).err().unwrap_or_else(|| panic!("{} was read", &text[..text.len().min(60)])) {
        CaptureError::AtLine { line, column, says } => (line, column, says),
        other => panic!("{other:?}"),
    }
}

#[test]
fn what_a_csv_cannot_say_is_refused_with_its_line() {
    let with = |at: usize, other: &str| {
        let text = rows(50, |n| if n == at { other.to_owned() } else { format!("{:.5},{}.5", n as f64 * 1e-4, n % 5) });
        format!("t,v\n{text}")
    };
    assert_eq!(at_line(&with(10, "0.00100,OL")).0, 12);
    assert!(at_line(&with(10, "0.00100,9.9E37")).2.contains("is an overflow"));
    assert_eq!(at_line(&with(10, "0.00100,1.x5")), (12, Some(2), "“1.x5” is no number.".into()));
    assert_eq!(at_line(&with(10, "0.00100,")), (12, Some(2), "A sample is missing.".into()));
    assert_eq!(at_line(&with(10, "0.00100")), (12, Some(2), "The row ends before its column 2.".into()));
    let gap = rows(50, |n| format!("{:.5},1.5", (if n < 20 { n } else { n + 7 }) as f64 * 1e-4));
    let (line, _, says) = at_line(&gap);
    assert!(line == 21 && says.contains("about 7 samples are missing"), "{line}: {says}");
    let uneven = rows(50, |n| format!("{:.7},1.5", n as f64 * 1e-4 + if n == 30 { 3e-6 } else { 0.0 }));
    assert!(at_line(&uneven).2.contains("a recording steps evenly"));
    assert!(at_line("1.5\n1.6\n1.7\n").2.contains("no column of time"));
    assert!(at_line("time (s),CH1 (psi)\n0,1\n0.1,2\n0.2,1\n").2.contains("“psi” is no unit"));
    assert!(at_line("only words\nand more\n").2.contains("no row of figures"));
    let nine = rows(20, |n| format!("{:.3},1,2,3,4,5,6,7,8,9", n as f64 * 1e-3));
    assert!(at_line(&nine).2.contains("9 columns of samples"));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    #[test]
    fn whatever_is_in_a_file_is_read_or_refused(bytes in prop::collection::vec(any::<u8>(), 0..400), start in prop::sample::select(vec!["", "RIFF", "fLaC", "FORM", "caff", "time,v\n0,1\n"])) {
        let folder = TempDir::new().unwrap();
        let path = folder.path().join("any");
        std::fs::write(&path, [start.as_bytes(), &bytes].concat()).unwrap();
        if let Ok(mut source) = open(&path) {
            let _ = blocks(source.as_mut());
        }
    }
}
