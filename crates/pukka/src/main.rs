//! `pukka serve`, `pukka demo`, `pukka claims`, `pukka plan`, `pukka judge`, `pukka publish`, `pukka backup`, `pukka restore`, `pukka check`, `pukka bench-sim`, `pukka openapi`, `pukka schema`.

#![warn(clippy::print_stdout)]

use std::net::SocketAddr;
use std::path::PathBuf;

use anyhow::Context;
use clap::{Parser, Subcommand};
use pukka::cards::{Shape, Theme};
use pukka::clock::Clock;
use pukka::demo::Extent;
use pukka::http::Reach;
use pukka::publish::Wanted;
use pukka::say;
use pukka::serve::{self, bind, prepare, until_told};
use pukka::site::SiteWanted;
use pukka::stand_in::{Settings, start};
use pukka_sim::scpi::Role;

/// An answer about a long session is made of tens of thousands of small pieces of memory, which the system's own allocator is slow at.
#[global_allocator]
static MEMORY: mimalloc::MiMalloc = mimalloc::MiMalloc;

/// Bench-test car audio amplifiers, and judge their makers' claims.
#[derive(Debug, Parser)]
#[command(version)]
struct Command {
    #[command(subcommand)]
    what: What,
}

#[derive(Debug, Subcommand)]
enum What {
    /// Serve the bench with your own data.
    Serve(Place),
    /// Serve the Ferry Lane demo bench.
    Demo {
        #[command(flatten)]
        place: Place,
        /// Throw the demo's data away and start over.
        #[arg(long)]
        fresh: bool,
        /// This season's twelve amplifiers alone, without those of the years before.
        #[arg(long)]
        this_season: bool,
        /// Speed of its stand-in bench as a multiple of life.
        #[arg(long, default_value_t = 1.0)]
        speed: f64,
    },
    /// Read a spec table from a text file into claim lines; `-` reads standard input.
    Claims {
        /// The text file.
        file: PathBuf,
        /// As JSON, for other programs.
        #[arg(long)]
        json: bool,
    },
    /// Say what each rung of a session file's plan will ask of the bench; `-` reads standard input.
    Plan {
        /// The session file.
        file: PathBuf,
        /// As JSON, for other programs.
        #[arg(long)]
        json: bool,
    },
    /// Judge a session file by the rules; `-` reads standard input.
    Judge {
        /// The session file.
        file: PathBuf,
        /// As JSON, for other programs.
        #[arg(long)]
        json: bool,
    },
    /// Say what a captured wave says: WAV, FLAC, AIFF, CAF, or the CSV of an oscilloscope.
    Trace {
        /// The recording.
        file: PathBuf,
        /// As JSON, for other programs.
        #[arg(long)]
        json: bool,
        /// Subject of a channel: N=KIND or N=KIND:SCALE. KIND: output, supply-volts, supply-amps, generator, unused. SCALE: units per
        /// full scale of an audio file, or per unit of a CSV; or READING@FROM-TO, what a meter read over seconds of it. Its ± behind
        /// it, as in 80±2%.
        #[arg(long = "channel", value_name = "N=KIND[:SCALE]", value_parser = pukka::trace::channel)]
        channels: Vec<pukka::trace::ChannelArgument>,
        /// Load of the outputs, ohms: watts are made with it. Its ± behind it, as in 3.98±1%.
        #[arg(long, value_name = "OHM", value_parser = pukka::trace::load)]
        load: Option<pukka::trace::LoadArgument>,
        /// Distortion that a clean tone has at most, as a fraction.
        #[arg(long, value_name = "RATIO", default_value = "0.01", value_parser = pukka::trace::positive)]
        limit: f64,
    },
    /// Run the stand-in bench: an amplifier, a supply, loads and meters, as SCPI instruments on loopback ports.
    BenchSim {
        /// The amplifier: honest, generous, weak-supply, regulated, weak-channel, fragile, protective, headroom.
        #[arg(long, default_value = "honest")]
        amplifier: String,
        /// Load of each output, ohms.
        #[arg(long, default_value_t = 4.0)]
        load: f64,
        /// First of its seven ports: generator, analyser, voltmeter, ammeter, the bench itself, supply, thermometer.
        #[arg(long, default_value_t = 5025)]
        port: u16,
        /// Speed as a multiple of life.
        #[arg(long, default_value_t = 1.0)]
        speed: f64,
        /// The same seed and the same script give the same session.
        #[arg(long, default_value_t = 1)]
        seed: u64,
    },
    /// Write everything that goes out of a session file: cards, sheet, texts, subtitles, data. Nothing private is in it.
    Publish {
        /// The session file; `-` reads standard input.
        file: PathBuf,
        /// Folder to write to.
        #[arg(long)]
        out: PathBuf,
        /// Shape of the cards.
        #[arg(long, value_enum, default_value_t)]
        shape: Shape,
        /// Length of their shorter side: 1080 or 2160.
        #[arg(long, default_value = "1080", value_parser = lines)]
        lines: u32,
        /// Theme of the cards.
        #[arg(long, value_enum, default_value_t)]
        theme: Theme,
        /// Reviewer's name, at the foot of the cards.
        #[arg(long, default_value = "")]
        by: String,
        /// Reviewer's mark, beside the name: PNG, JPEG or WebP.
        #[arg(long)]
        mark: Option<PathBuf>,
        /// Day that stands on the sheet; today when not given.
        #[arg(long)]
        on: Option<jiff::civil::Date>,
    },
    /// Write the shelf, or a part of it, as a static web site. The program may run meanwhile. Nothing private is in it.
    Site {
        /// Folder of the data; the bench's own when not given.
        #[arg(long)]
        data: Option<PathBuf>,
        /// Folder to write to.
        #[arg(long)]
        out: PathBuf,
        /// Address it will have: for the feed, and for previews elsewhere.
        #[arg(long)]
        url: Option<String>,
        /// Name of the site.
        #[arg(long, default_value = pukka::site::NAME)]
        name: String,
        /// Licence of what is published: "CC BY 4.0".
        #[arg(long)]
        licence: Option<String>,
        /// Only amplifiers whose name contains this.
        #[arg(long)]
        only: Option<String>,
    },
    /// Back a data folder up into one file; the program may run meanwhile.
    Backup {
        /// Folder of the data; the bench's own when not given.
        #[arg(long)]
        data: Option<PathBuf>,
        /// The new file.
        #[arg(long)]
        to: PathBuf,
    },
    /// Put a backup back: a file that `pukka backup` made, or the .json of a dated copy. What is there is kept beside it.
    Restore {
        /// The backup.
        file: PathBuf,
        /// Folder of the data; the bench's own when not given.
        #[arg(long)]
        data: Option<PathBuf>,
    },
    /// Check a data folder. Ends with 0 when it is sound, 1 when something was found, 2 when it cannot be read.
    Check {
        /// Folder of the data; the bench's own when not given.
        #[arg(long)]
        data: Option<PathBuf>,
        /// As JSON, for other programs.
        #[arg(long)]
        json: bool,
        /// Mend what loses nothing; the program must not run meanwhile.
        #[arg(long)]
        repair: bool,
    },
    /// Check instrument profiles.
    Profile {
        #[command(subcommand)]
        what: ProfileCommand,
    },
    /// Watch over a live run from a process of its own: started by the program itself.
    #[command(hide = true)]
    Watchdog,
    /// Print the description of the HTTP interface.
    Openapi,
    /// Print the JSON Schema of session files.
    Schema,
}

#[derive(Debug, Subcommand)]
enum ProfileCommand {
    /// Say what is wrong with a profile, with line and reason; or which tasks it serves.
    Check {
        /// The profile, a TOML file; `-` reads standard input.
        file: PathBuf,
    },
}

#[derive(Debug, clap::Args)]
struct Place {
    /// Folder of the data; created on first start.
    #[arg(long)]
    data: Option<PathBuf>,
    /// Address to listen on; the next free port from 7411 when not given.
    #[arg(long)]
    listen: Option<SocketAddr>,
    /// Let every machine on the network in, unpaired: they can read and change the records and drive the bench.
    #[arg(long)]
    trust_network: bool,
    /// Stop the clock at this moment (for pictures and tests).
    #[arg(long, hide = true)]
    now: Option<jiff::Timestamp>,
}

fn main() -> anyhow::Result<()> {
    tracing_subscriber::fmt()
        .with_env_filter(tracing_subscriber::EnvFilter::try_from_default_env().unwrap_or_else(|_| "pukka=info,warn".into()))
        .with_writer(std::io::stderr)
        .init();
    match Command::parse().what {
        What::Serve(place) => host(place, None, false, 1.0),
        What::Demo { place, fresh, this_season, speed } => {
            host(place, Some(if this_season { Extent::Season } else { Extent::Whole }), fresh, speed)
        }
        What::Claims { file, json } => pukka::cli::claims(&file, json),
        What::Plan { file, json } => {
            if !pukka::cli::plan(&file, json)? {
                std::process::exit(2);
            }
            Ok(())
        }
        What::Judge { file, json } => {
            if !pukka::cli::judge(&file, json)? {
                std::process::exit(2);
            }
            Ok(())
        }
        What::Trace { file, json, channels, load, limit } => {
            if !pukka::trace::trace(&file, json, &channels, load, limit)? {
                std::process::exit(2);
            }
            Ok(())
        }
        What::BenchSim { amplifier, load, port, speed, seed } => bench_sim(&Settings { amplifier, load_ohm: load, port, speed, seed }),
        What::Profile { what: ProfileCommand::Check { file } } => {
            if !pukka::cli::check_profile(&file)? {
                std::process::exit(2);
            }
            Ok(())
        }
        What::Publish { file, out, shape, lines, theme, by, mark, on } => {
            let by = pukka::publish::signature(by, mark.as_deref())?;
            let made_on = on.map_or_else(|| jiff::Timestamp::now().strftime("%Y-%m-%d").to_string(), |day| day.to_string());
            if !pukka::publish::publish(&Wanted { file, out, shape, lines, theme, by, made_on })? {
                std::process::exit(2);
            }
            Ok(())
        }
        What::Site { data, out, url, name, licence, only } => {
            if let Some(Err(says)) = url.as_deref().map(pukka::site::check_url) {
                anyhow::bail!("{says}");
            }
            let count = pukka::site::site(&SiteWanted { data: folder_of(data)?, out, url, name, licence, only })?;
            say!("{count} amplifiers");
            Ok(())
        }
        What::Backup { data, to } => pukka::upkeep::commands::backup(&folder_of(data)?, &to),
        What::Restore { file, data } => pukka::upkeep::commands::restore(&file, &folder_of(data)?),
        What::Check { data, json, repair } => std::process::exit(pukka::upkeep::commands::check(&folder_of(data)?, json, repair)?),
        What::Watchdog => tokio::runtime::Builder::new_current_thread().enable_all().build()?.block_on(pukka::live::watch()),
        What::Openapi => {
            say!("{}", pukka::http::openapi().to_pretty_json()?);
            Ok(())
        }
        What::Schema => {
            say!("{}", serde_json::to_string_pretty(pukka_core::record::session::schema::schema())?);
            Ok(())
        }
    }
}

fn bench_sim(settings: &Settings) -> anyhow::Result<()> {
    let runtime = tokio::runtime::Builder::new_multi_thread().enable_all().build()?;
    runtime.block_on(async {
        let (_running, ports) = start(settings).await?;
        for role in Role::ALL {
            say!("{} at {}", role.word(), ports.of(role));
        }
        until_told().await;
        Ok(())
    })
}

fn host(place: Place, demo: Option<Extent>, fresh: bool, speed: f64) -> anyhow::Result<()> {
    let data = match place.data {
        Some(folder) => folder,
        None => default_folder(if demo.is_some() { "demo" } else { "bench" })?,
    };
    if fresh {
        pukka::demo::start_over(&data)?;
    }
    let (clock, trust_network) = (place.now.map_or(Clock::System, Clock::Stopped), place.trust_network);
    let runtime = tokio::runtime::Builder::new_multi_thread().enable_all().build()?;
    let served = runtime.block_on(async {
        let listener = bind(place.listen, trust_network).await?;
        let at = listener.local_addr()?;
        let reach = Reach { on_network: !at.ip().is_loopback(), trust_network };
        // Without a path to itself a program could not watch over its runs.
        let watchdog = Some(std::env::current_exe().context("where this program is cannot be told")?);
        let ready = prepare(serve::Settings { data, clock, demo, speed, reach, watchdog }).await?;
        if reach.on_network {
            eprintln!("Warning: every machine on this network can read and change the records and drive the bench.");
        }
        // Said only once the data folder is ours.
        say!("Pukka is at http://{at}");
        ready.serve(listener, told_once()).await
    });
    // An import that is still at work, say, is cut off between two amplifiers' transactions: nothing is half-kept.
    runtime.shutdown_timeout(std::time::Duration::from_millis(200));
    served
}

/// Waits to be told to end. Told once more, the program ends at once: its watchdog takes a level away that is still up.
async fn told_once() {
    until_told().await;
    tokio::spawn(async {
        until_told().await;
        std::process::exit(130);
    });
}

fn lines(text: &str) -> Result<u32, String> {
    text.parse().ok().filter(|lines| [1_080, 2_160].contains(lines)).ok_or_else(|| "choose 1080 or 2160".to_owned())
}

fn folder_of(data: Option<PathBuf>) -> anyhow::Result<PathBuf> {
    data.map_or_else(|| default_folder("bench"), Ok)
}

fn default_folder(name: &str) -> anyhow::Result<PathBuf> {
    let folders = directories::ProjectDirs::from("", "", "pukka").context("This system has no folder for data: name one with --data.")?;
    Ok(folders.data_dir().join(name))
}
