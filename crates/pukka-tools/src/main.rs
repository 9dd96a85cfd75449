//! What needs the whole program, and a browser: pictures and measurements. `cargo xtask shots | bench` builds and runs it, so that
//! the task runner itself builds in seconds.

mod bench;
mod bench_live;
mod bench_session;
mod bench_shelf;
mod bench_typing;
mod demo_shelf;
mod measure;
mod shots;

use std::path::{Path, PathBuf};

use clap::{Parser, Subcommand};

#[derive(Debug, Parser)]
struct Command {
    #[command(subcommand)]
    task: Task,
}

#[derive(Debug, Subcommand)]
enum Task {
    /// Measure the release program.
    Bench {
        /// Only this part: start, typing, session, shelf.
        only: Option<String>,
    },
    /// Measure the older part of the demo's shelf on the stand-in bench, and write its file.
    DemoShelf,
    /// Make the pictures of docs/screenshots from the demo data.
    Shots {
        /// Only those whose name contains this.
        only: Option<String>,
    },
}

/// The root of the project.
fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).ancestors().nth(2).map(Path::to_owned).unwrap_or_default()
}

fn main() -> anyhow::Result<()> {
    match Command::parse().task {
        Task::Bench { only } => bench::bench(only.as_deref()),
        Task::DemoShelf => demo_shelf::write(),
        Task::Shots { only } => shots::shots(only.as_deref()),
    }
}
