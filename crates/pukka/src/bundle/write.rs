//! A shelf as a zip, written an amplifier at a time.

use std::collections::BTreeMap;
use std::fs::File;
use std::io::{Seek, Write};

use pukka_core::kernel::problem::Problem;
use pukka_core::record::amplifier::PhotoWords;
use pukka_core::record::bench::BenchProfile;
use pukka_store::transfer::Outgoing;
use serde::Serialize;
use zip::write::SimpleFileOptions;
use zip::{CompressionMethod, ZipWriter};

use super::{FORMAT, LEFT_OUT, LinkLine, Manifest, PhotoLine, VERSION};

/// A photo to be written: what is said of it, and its bytes or why there are none.
pub type OutgoingPhoto = (PhotoWords, Result<Vec<u8>, String>);

/// A captured wave to be written: its hash, the ending of its name, and its file or why there is none.
pub type OutgoingTrace = (String, &'static str, Result<File, String>);

/// A zip under way. The same shelf at the same moment gives the same bytes.
pub struct ShelfWriter<W: Write + Seek> {
    zip: ZipWriter<W>,
    seen: BTreeMap<String, usize>,
    manifest: Manifest,
}

impl<W: Write + Seek> ShelfWriter<W> {
    /// Begins one.
    pub fn new(out: W, exported_at: &str) -> Self {
        let manifest = Manifest {
            format: FORMAT.into(),
            version: VERSION,
            exported_at: exported_at.into(),
            folders: Vec::new(),
            left_out: Vec::new(),
        };
        Self { zip: ZipWriter::new(out), seen: BTreeMap::new(), manifest }
    }

    /// Adds an amplifier. A photo or a trace that cannot be read is named, and left out.
    ///
    /// # Errors
    /// When something cannot be written as JSON, or into the zip.
    pub fn add(
        &mut self,
        outgoing: &Outgoing,
        photos: impl IntoIterator<Item = OutgoingPhoto>,
        traces: impl IntoIterator<Item = OutgoingTrace>,
    ) -> std::io::Result<()> {
        let name = self.name(&outgoing.file.amplifier.name());
        self.json(&format!("{name}/session.json"), &outgoing.file.to_file()?)?;
        if let Some(settled) = &outgoing.settled {
            self.json(&format!("{name}/settled.json"), settled)?;
        }
        for (i, ramp) in outgoing.ramps.iter().enumerate() {
            self.json(&format!("{name}/ramps/{:03}.json", i + 1), ramp)?;
        }
        let mut lines = Vec::new();
        for (i, (words, bytes)) in photos.into_iter().enumerate() {
            let file = format!("photos/{:02}.jpg", i + 1);
            match bytes {
                Ok(bytes) => {
                    self.file(&format!("{name}/{file}"), &bytes, CompressionMethod::Stored)?;
                    lines.push(PhotoLine { file, words });
                }
                Err(why) => self.manifest.left_out.push(Problem::new(format!("{name}/{file}"), why)),
            }
        }
        if !lines.is_empty() {
            self.json(&format!("{name}/photos.json"), &lines)?;
        }
        for (sha256, ending, file) in traces {
            let path = format!("{name}/traces/{sha256}.{ending}");
            match file {
                Ok(mut file) => {
                    self.start(&path, CompressionMethod::Deflated)?;
                    std::io::copy(&mut file, &mut self.zip)?;
                }
                Err(why) => self.manifest.left_out.push(Problem::new(path, why)),
            }
        }
        self.manifest.folders.push(name);
        Ok(())
    }

    /// Adds what stands beside the amplifiers: bench profiles, and links of instruments.
    ///
    /// # Errors
    /// When it cannot be written.
    pub fn beside(&mut self, benches: &[BenchProfile], links: &[LinkLine]) -> std::io::Result<()> {
        if !benches.is_empty() {
            self.json("benches.json", &benches)?;
        }
        if !links.is_empty() {
            self.json("instruments.json", &links)?;
        }
        Ok(())
    }

    /// Ends it: says what it holds, and what had to be left out. Gives what was written to, and how much was left out.
    ///
    /// # Errors
    /// When it cannot be written.
    pub fn finish(mut self) -> std::io::Result<(W, usize)> {
        let left_out = std::mem::take(&mut self.manifest.left_out);
        if !left_out.is_empty() {
            let lines: Vec<String> = left_out.iter().map(|problem| format!("{}: {}", problem.path, problem.says)).collect();
            let text = format!("Left out of this file, as it could not be read:\r\n{}\r\n", lines.join("\r\n"));
            self.file(LEFT_OUT, text.as_bytes(), CompressionMethod::Deflated)?;
        }
        let count = left_out.len();
        let manifest = Manifest { left_out, ..self.manifest.clone() };
        self.json("shelf.json", &manifest)?;
        Ok((self.zip.finish()?, count))
    }

    fn json(&mut self, name: &str, value: &impl Serialize) -> std::io::Result<()> {
        let bytes = serde_json::to_vec_pretty(value)?;
        self.file(name, &bytes, CompressionMethod::Deflated)
    }

    fn file(&mut self, name: &str, bytes: &[u8], how: CompressionMethod) -> std::io::Result<()> {
        self.start(name, how)?;
        self.zip.write_all(bytes)
    }

    fn start(&mut self, name: &str, how: CompressionMethod) -> std::io::Result<()> {
        // Without a date of its own: the moment stands in shelf.json.
        let options = SimpleFileOptions::default().compression_method(how).last_modified_time(zip::DateTime::default()).large_file(true);
        Ok(self.zip.start_file(name, options)?)
    }

    /// A folder name: the amplifier's in plain letters, numbered where two are alike.
    fn name(&mut self, amplifier: &str) -> String {
        let plain = crate::slug(amplifier);
        let count = self.seen.entry(plain.clone()).or_default();
        *count += 1;
        if *count == 1 { plain } else { format!("{plain}--{count}") }
    }
}
