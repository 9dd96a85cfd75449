//! A recording without what its recorder wrote beside the samples: names, places, dates, serial numbers. The samples stay bit for bit.
//!
//! Ref: RIFF/WAVE and AIFF: chunks padded to even lengths. CAF 1.0: chunks with sizes of eight bytes. FLAC, RFC 9639, 8: metadata blocks.

use std::fs::File;
use std::io::{BufReader, BufWriter, Read, Seek, SeekFrom, Write};
use std::path::Path;

use crate::{CaptureError, Form, open};

/// Rows that are written of a CSV at a time.
const ROWS: usize = 16_384;

/// Writes a recording as it is but for what stands beside its samples.
///
/// # Errors
/// [`CaptureError`] when it cannot be read, or not be written.
pub fn bare(path: &Path, out: &mut (impl Write + Seek)) -> Result<(), CaptureError> {
    let mut out = BufWriter::new(out);
    match Form::of(path)? {
        Form::Wav => riff(path, &mut out, [b"fmt ", b"fact", b"data"], u32::from_le_bytes, u32::to_le_bytes)?,
        Form::Aiff => riff(path, &mut out, [b"COMM", b"FVER", b"SSND"], u32::from_be_bytes, u32::to_be_bytes)?,
        Form::Caf => caf(path, &mut out)?,
        Form::Flac => flac(path, &mut out)?,
        Form::Csv => csv(path, &mut out)?,
    }
    out.flush()?;
    Ok(())
}

fn copy(from: &mut impl Read, to: &mut impl Write, bytes: u64) -> Result<(), CaptureError> {
    let copied = std::io::copy(&mut from.take(bytes), to)?;
    if copied == bytes { Ok(()) } else { Err(CaptureError::AtByte { at: copied, says: "The file ends inside a chunk.".into() }) }
}

/// Chunks of a four-letter word and a size of four bytes, padded to an even length.
fn riff(
    path: &Path,
    out: &mut (impl Write + Seek),
    kept: [&[u8; 4]; 3],
    read: fn([u8; 4]) -> u32,
    write: fn(u32) -> [u8; 4],
) -> Result<(), CaptureError> {
    let mut file = BufReader::new(File::open(path)?);
    let mut head = [0; 12];
    file.read_exact(&mut head)?;
    out.write_all(&head)?;
    let mut chunk = [0; 8];
    while file.read_exact(&mut chunk).is_ok() {
        let size = read([chunk[4], chunk[5], chunk[6], chunk[7]]);
        let padding = u64::from(size % 2);
        if kept.iter().any(|word| chunk[..4] == word[..]) {
            out.write_all(&chunk)?;
            copy(&mut file, out, u64::from(size))?;
            // The byte behind a chunk of odd length may be missing at the end of a file; what it holds means nothing.
            file.seek_relative(padding as i64)?;
            out.write_all(&[0][..padding as usize])?;
        } else {
            file.seek(SeekFrom::Current(i64::from(size) + padding as i64))?;
        }
    }
    let length = out.stream_position()?;
    out.seek(SeekFrom::Start(4))?;
    out.write_all(&write(u32::try_from(length - 8).unwrap_or(u32::MAX)))?;
    out.seek(SeekFrom::Start(length))?;
    Ok(())
}

fn caf(path: &Path, out: &mut impl Write) -> Result<(), CaptureError> {
    let mut file = BufReader::new(File::open(path)?);
    let mut head = [0; 8];
    file.read_exact(&mut head)?;
    out.write_all(&head)?;
    let mut chunk = [0; 12];
    while file.read_exact(&mut chunk).is_ok() {
        let size = i64::from_be_bytes([chunk[4], chunk[5], chunk[6], chunk[7], chunk[8], chunk[9], chunk[10], chunk[11]]);
        let is_kept = [&b"desc"[..], b"pakt", b"kuki", b"chan", b"data"].contains(&&chunk[..4]);
        if is_kept {
            out.write_all(&chunk)?;
        }
        match u64::try_from(size) {
            Ok(size) if is_kept => copy(&mut file, out, size)?,
            Ok(_) => {
                file.seek(SeekFrom::Current(size))?;
            }
            // A last chunk of samples may go on to the end of the file.
            Err(_) if is_kept => {
                std::io::copy(&mut file, out)?;
            }
            Err(_) => break,
        }
    }
    Ok(())
}

fn flac(path: &Path, out: &mut impl Write) -> Result<(), CaptureError> {
    const LAST: u8 = 0x80;
    const STREAMINFO: u8 = 0;
    const SEEKTABLE: u8 = 3;
    let mut file = BufReader::new(File::open(path)?);
    let mut word = [0; 4];
    file.read_exact(&mut word)?;
    out.write_all(&word)?;
    let mut kept: Vec<(u8, Vec<u8>)> = Vec::new();
    loop {
        file.read_exact(&mut word)?;
        let size = u32::from_be_bytes([0, word[1], word[2], word[3]]);
        let mut block = Vec::new();
        (&mut file).take(u64::from(size)).read_to_end(&mut block)?;
        let kind = word[0] & !LAST;
        if matches!(kind, STREAMINFO | SEEKTABLE) {
            kept.push((kind, block));
        }
        if word[0] & LAST != 0 {
            break;
        }
    }
    let count = kept.len();
    for (i, (kind, block)) in kept.into_iter().enumerate() {
        let [_, size @ ..] = u32::try_from(block.len()).unwrap_or_default().to_be_bytes();
        out.write_all(&[if i + 1 == count { kind | LAST } else { kind }])?;
        out.write_all(&size)?;
        out.write_all(&block)?;
    }
    std::io::copy(&mut file, out)?;
    Ok(())
}

/// A CSV anew: a column of time, then a column a channel, and no other header.
fn csv(path: &Path, out: &mut impl Write) -> Result<(), CaptureError> {
    let mut source = open(path)?;
    let recording = source.recording();
    let names: Vec<String> = (1..=recording.channels).map(|n| format!("channel {n}")).collect();
    writeln!(out, "time,{}\r", names.join(","))?;
    let broke = |why: pukka_waves::SourceError| CaptureError::Unknown(why.to_string());
    let mut at = 0;
    while at < recording.frames {
        let columns = (0..recording.channels).map(|n| source.window(n, at, ROWS)).collect::<Result<Vec<_>, _>>().map_err(broke)?;
        let rows = columns.iter().map(Vec::len).min().unwrap_or_default();
        if rows == 0 {
            break;
        }
        for row in 0..rows {
            write!(out, "{}", (at + row as u64) as f64 / recording.rate_hz)?;
            columns.iter().try_for_each(|column| write!(out, ",{}", column[row]))?;
            out.write_all(b"\r\n")?;
        }
        at += rows as u64;
    }
    Ok(())
}
