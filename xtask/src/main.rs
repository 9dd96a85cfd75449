//! `cargo xtask demo | build | test | types | shots | bench`: everything a fresh machine needs, in one place.

mod bench;
mod bench_live;
mod bench_shelf;
mod build;
mod chromium;
mod shots;
mod types;

use clap::{Parser, Subcommand};

#[derive(Debug, Parser)]
struct Command {
    #[command(subcommand)]
    what: What,
}

#[derive(Debug, Subcommand)]
enum What {
    /// Build everything and serve the Ferry Lane demo bench.
    Demo {
        /// Start over.
        #[arg(long)]
        fresh: bool,
    },
    /// Build the front end and the release program.
    Build,
    /// Set up the browser if it is missing, build everything, run every test.
    Test {
        /// Handed on to cargo test.
        #[arg(trailing_var_arg = true, allow_hyphen_values = true)]
        rest: Vec<String>,
    },
    /// Generate the front end's types from the HTTP interface.
    Types {
        /// Only say whether the committed ones are current.
        #[arg(long)]
        check: bool,
    },
    /// Make every picture of docs/screenshots from the demo data.
    Shots {
        /// Only those whose name contains this.
        only: Option<String>,
    },
    /// Measure: cold start, sizes, memory, hot paths.
    Bench,
}

fn main() -> anyhow::Result<()> {
    match Command::parse().what {
        What::Demo { fresh } => build::demo(fresh),
        What::Build => build::release(),
        What::Test { rest } => {
            chromium::ensure()?;
            build::front_end()?;
            build::cargo(&[&["test", "--workspace"], rest.iter().map(String::as_str).collect::<Vec<_>>().as_slice()].concat())
        }
        What::Types { check } => types::types(check),
        What::Shots { only } => {
            chromium::ensure()?;
            build::front_end()?;
            build::cargo(&["build", "--workspace"])?;
            shots::shots(only.as_deref())
        }
        What::Bench => bench::bench(),
    }
}
