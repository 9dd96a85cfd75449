//! What the program does on files, without a server.

use std::io::Read as _;
use std::path::Path;

use anyhow::Context;
use pukka_core::claims::paste::{PastedClaim, paste};
use pukka_core::format;

fn text_of(file: &Path) -> anyhow::Result<String> {
    let mut bytes = Vec::new();
    if file == Path::new("-") {
        std::io::stdin().read_to_end(&mut bytes).context("standard input cannot be read")?;
    } else {
        bytes = std::fs::read(file).with_context(|| format!("{} cannot be read", file.display()))?;
    }
    Ok(String::from_utf8_lossy(&bytes).trim_start_matches('\u{feff}').to_owned())
}

/// Reads a spec table into claim lines and prints them.
///
/// # Errors
/// When the file cannot be read.
pub fn claims(file: &Path, json: bool) -> anyhow::Result<()> {
    let pasted = paste(&text_of(file)?, None);
    if json {
        println!("{}", serde_json::to_string_pretty(&pasted)?);
        return Ok(());
    }
    for line in &pasted.claims {
        println!("{}", words(line));
    }
    for line in &pasted.not_understood {
        println!("not understood: {line}");
    }
    Ok(())
}

fn words(line: &PastedClaim) -> String {
    let claim = &line.claim;
    let parts = [
        claim.wiring.map(pukka_core::wiring::Wiring::words),
        claim.power_w.map(|w| format::with_unit(&format::as_read(w.get()), "W")),
        (claim.per == pukka_core::claims::Per::Total).then(|| "in total".to_owned()),
        claim.load_ohm.map(|load| format::with_unit(&format::ohms(load.get()), "Ω")),
        Some(match claim.kind {
            pukka_core::claims::ClaimKind::Rms => "rms".to_owned(),
            pukka_core::claims::ClaimKind::Max => "max".to_owned(),
            pukka_core::claims::ClaimKind::Unstated => "kind not stated".to_owned(),
        }),
        claim.supply_v.map(|v| format::with_unit(&format::as_read(v.get()), "V")),
        claim.thd_limit_ratio.map(|t| format::with_unit(&format::as_read(t.get() * 100.0), "% THD")),
        claim.tone_hz.map(|t| format::tone(t.get())),
    ];
    format!("{:<60} <- {}", parts.into_iter().flatten().collect::<Vec<_>>().join(", "), line.text)
}
