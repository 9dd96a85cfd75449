//! One contract: Rust types, OpenAPI, TypeScript types.

use std::process::Command;

use anyhow::Context;

use crate::build::{cargo, packages, root, run};

/// Generates the TypeScript types, or checks that the committed ones are what would be generated.
pub fn types(check: bool) -> anyhow::Result<()> {
    packages()?;
    cargo(&["build", "--workspace"])?;
    let description = root().join("target/openapi.json");
    std::fs::write(&description, said("openapi")?)?;
    let (documented, current) = (root().join("docs/pukka-session.schema.json"), said("schema")?);
    if !check {
        std::fs::write(&documented, &current)?;
    } else if std::fs::read(&documented)? != current {
        anyhow::bail!("docs/pukka-session.schema.json is not what the program reads: run cargo xtask types");
    }
    let committed = root().join("web/src/api/generated/schema.ts");
    let fresh = if check { root().join("target/schema.ts") } else { committed.clone() };
    let (from, to) = (description.to_string_lossy(), fresh.to_string_lossy());
    run(&root().join("web"), "npx", &["--no-install", "openapi-typescript", &from, "-o", &to])?;
    if check {
        let same = std::fs::read(&fresh)? == std::fs::read(&committed).context("there are no committed types")?;
        anyhow::ensure!(same, "web/src/api/generated/schema.ts is not what the program describes: run cargo xtask types");
        println!("The committed types are current.");
    }
    Ok(())
}

/// Output of the program about itself.
fn said(what: &str) -> anyhow::Result<Vec<u8>> {
    let described = Command::new(root().join("target/debug/pukka")).arg(what).output()?;
    anyhow::ensure!(described.status.success(), "pukka {what} failed");
    Ok(described.stdout)
}
