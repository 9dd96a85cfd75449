//! One contract: Rust types, OpenAPI, TypeScript types.

use std::process::Command;

use anyhow::Context;

use crate::build::{cargo, packages, root, run};

/// Generates the TypeScript types, or checks that the committed ones are what would be generated.
pub fn types(check: bool) -> anyhow::Result<()> {
    packages()?;
    cargo(&["build", "--workspace"])?;
    let described = Command::new(root().join("target/debug/pukka")).arg("openapi").output()?;
    anyhow::ensure!(described.status.success(), "pukka openapi failed");
    let description = root().join("target/openapi.json");
    std::fs::write(&description, described.stdout)?;
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
