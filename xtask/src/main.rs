//! `cargo xtask demo | build | test | long | types | shots | bench`: everything a fresh machine needs, in one place. It depends on little,
//! so that it is there in seconds; what needs the program itself is in crates/pukka-tools.

mod build;
mod chromium;
mod long;
mod types;

use build::Steps;
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
    /// Build the front end and the fast program.
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
    /// Run what takes too long for every change: kill loops, real-time runs, fuzzing, mutants.
    Long,
    /// Measure: cold start, sizes, memory, hot paths.
    Bench,
}

fn main() -> anyhow::Result<()> {
    match Command::parse().what {
        What::Demo { fresh } => build::demo(fresh),
        What::Build => build::release(),
        What::Test { rest } => {
            let steps = Steps::of(4);
            // Fetched while the processor is busy with everything else.
            let browser = std::thread::spawn(chromium::ensure);
            steps.next("the front end, and beside it the browser of the tests where it is missing");
            build::front_end()?;
            steps.next("the pure parts of the pages");
            build::run(&build::root().join("web"), "npm", &["test", "--silent"])?;
            steps.next("the programs of the tests (minutes on a fresh machine)");
            build::cargo(&["test", "--workspace", "--no-run"])?;
            browser.join().map_err(|_| anyhow::anyhow!("the browser could not be set up"))??;
            steps.next("every test");
            build::cargo(&[&["test", "--workspace"], rest.iter().map(String::as_str).collect::<Vec<_>>().as_slice()].concat())
        }
        What::Types { check } => types::types(check),
        What::Shots { only } => {
            let steps = Steps::of(4);
            steps.next("the browser");
            chromium::ensure()?;
            steps.next("the front end");
            build::front_end()?;
            steps.next("the program");
            build::cargo(&["build", "--workspace"])?;
            steps.next("the pictures");
            build::tools(&["shots"].into_iter().chain(only.as_deref()).collect::<Vec<_>>())
        }
        What::Long => long::run(),
        What::Bench => {
            let steps = Steps::of(4);
            steps.next("the browser");
            chromium::ensure()?;
            steps.next("the fast program");
            build::release()?;
            steps.next("what measures it");
            build::cargo(&["build", "--workspace"])?;
            steps.next("the figures");
            build::tools(&["bench"])
        }
    }
}
