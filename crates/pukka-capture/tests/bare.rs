//! What a recorder wrote beside the samples stays at home; the samples go as they are.

#![allow(clippy::unwrap_used, reason = "a test that cannot set itself up has failed")]

use std::fs;
use std::io::Cursor;

use pukka_capture::{Form, bare, open};

fn stripped(bytes: &[u8]) -> Vec<u8> {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("capture");
    fs::write(&path, bytes).unwrap();
    let mut out = Cursor::new(Vec::new());
    bare(&path, &mut out).unwrap();
    let once = out.into_inner();
    fs::write(&path, &once).unwrap();
    let mut again = Cursor::new(Vec::new());
    bare(&path, &mut again).unwrap();
    assert!(again.into_inner() == once, "what is bare stays as it is");
    assert!(!once.windows(6).any(|six| six == b"SECRET"));
    once
}

fn chunk(word: &[u8; 4], size: impl Fn(u32) -> [u8; 4], content: &[u8]) -> Vec<u8> {
    let padding = if content.len() % 2 == 1 { &[0u8][..] } else { &[] };
    [word, &size(content.len() as u32)[..], content, padding].concat()
}

#[test]
fn chunks_of_wav_and_aiff_but_format_and_samples_are_left_out() {
    for (outer, form, size, keep, secret) in [
        (b"RIFF", b"WAVE", u32::to_le_bytes as fn(u32) -> [u8; 4], [b"fmt ", b"data"], [b"LIST", b"bext"]),
        (b"FORM", b"AIFF", u32::to_be_bytes, [b"COMM", b"SSND"], [b"NAME", b"ANNO"]),
    ] {
        let wrapped = |parts: &[Vec<u8>]| {
            let content = [&form[..], &parts.concat()].concat();
            [&outer[..], &size(content.len() as u32), &content].concat()
        };
        let own = [chunk(keep[0], size, &[7; 18]), chunk(keep[1], size, &[1, 2, 3])];
        let hidden = [chunk(secret[0], size, b"SECRET place!"), chunk(secret[1], size, b"SECRET serial")];
        let full = wrapped(&[hidden[0].clone(), own[0].clone(), hidden[1].clone(), own[1].clone()]);
        assert!(stripped(&full) == wrapped(&own), "{}", String::from_utf8_lossy(outer));
    }
}

#[test]
fn chunks_of_caf_and_blocks_of_flac_likewise() {
    let part = |word: &[u8; 4], content: &[u8]| [&word[..], &(content.len() as i64).to_be_bytes(), content].concat();
    let caf = |parts: &[Vec<u8>]| [b"caff".as_slice(), &[0, 1, 0, 0], &parts.concat()].concat();
    let own = [part(b"desc", &[5; 32]), part(b"data", &[0, 0, 0, 0, 9, 9])];
    assert!(stripped(&caf(&[own[0].clone(), part(b"info", b"SECRET owner"), own[1].clone()])) == caf(&own));
    let block = |kind: u8, content: &[u8]| [&[kind][..], &(content.len() as u32).to_be_bytes()[1..], content].concat();
    let frames = [0xFF, 0xF8, 1, 2, 3];
    let full =
        [b"fLaC".as_slice(), &block(0, &[3; 34]), &block(4, b"SECRET artist"), &block(0x80 | 6, b"SECRET picture"), &frames].concat();
    assert!(stripped(&full) == [b"fLaC".as_slice(), &block(0x80, &[3; 34]), &frames].concat(), "the last block is said to be the last");
}

#[test]
fn a_csv_keeps_its_samples_and_no_other_word() {
    let rows: String = (0..400).map(|i| format!("{};{}\n", f64::from(i) * 1e-5, (f64::from(i) * 0.1).sin())).collect();
    let text = format!("Model;SECRET-9000\nSerial;SECRET 42\nTime (s);Probe (V)\n{rows}");
    let bare = stripped(text.as_bytes());
    let folder = tempfile::tempdir().unwrap();
    let (one, other) = (folder.path().join("one"), folder.path().join("other"));
    fs::write(&one, &text).unwrap();
    fs::write(&other, &bare).unwrap();
    assert_eq!(Form::of(&other).unwrap().ending(), "csv");
    let (mut one, mut other) = (open(&one).unwrap(), open(&other).unwrap());
    assert_eq!(one.recording(), other.recording());
    assert_eq!(one.window(0, 0, 400).unwrap(), other.window(0, 0, 400).unwrap(), "to the last digit");
}
