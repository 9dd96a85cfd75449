//! The stand-in bench: on ports of its own, or inside the demo.

use std::sync::Arc;

use anyhow::Context;
use pukka_core::instruments::{GENERIC, Role};
use pukka_sim::bench::Bench;
use pukka_sim::character::{ALL, find};
use pukka_sim::scpi;
use pukka_sim::serve::{Ports, Running, listen};
use pukka_sim::supply::SupplyKind;
use pukka_store::links::{self, LinkRow};
use pukka_store::{Author, Store};

use crate::clock::Clock;

/// Settings that a stand-in bench starts with.
#[derive(Debug, Clone)]
pub struct Settings {
    /// Key of the amplifier on it.
    pub amplifier: String,
    /// Load of each output, ohms.
    pub load_ohm: f64,
    /// First of its seven ports; 0 for any seven.
    pub port: u16,
    /// Speed as a multiple of life.
    pub speed: f64,
    /// Seed of its noise and of its meters' errors.
    pub seed: u64,
}

impl Default for Settings {
    fn default() -> Self {
        Self { amplifier: "honest".into(), load_ohm: 4.0, port: 0, speed: 1.0, seed: 1 }
    }
}

/// Starts it.
///
/// # Errors
/// When there is no such amplifier, or a port cannot be had.
pub async fn start(settings: &Settings) -> anyhow::Result<(Running, Ports)> {
    let known = || ALL.map(|character| character.key).join(", ");
    let character = find(&settings.amplifier).with_context(|| format!("“{}” is none of {}", settings.amplifier, known()))?;
    anyhow::ensure!(settings.load_ohm >= 0.1 && settings.load_ohm <= 1_000.0, "a load is 0.1 to 1000 Ω");
    anyhow::ensure!(settings.speed > 0.0 && settings.speed <= 1_000.0, "a speed is more than 0, and 1000 at the most");
    let bench = Bench::with(settings.seed, character, SupplyKind::bank(), settings.load_ohm);
    let running = Running::new(bench, settings.speed);
    let ports = listen(running.clone(), settings.port).await.context("the stand-in bench cannot listen")?;
    Ok((running, ports))
}

/// Simulated instrument that does a task.
#[must_use]
pub const fn instrument(role: Role) -> scpi::Role {
    match role {
        Role::Generator => scpi::Role::Generator,
        Role::Analyser => scpi::Role::Analyser,
        Role::Voltmeter => scpi::Role::Voltmeter,
        Role::Ammeter => scpi::Role::Ammeter,
        Role::Supply => scpi::Role::Supply,
        Role::Thermometer => scpi::Role::Thermometer,
    }
}

/// Starts a stand-in bench for the demo, and links it where no other link is set up.
///
/// # Errors
/// When it cannot be started, or the links cannot be kept.
pub async fn link(store: &Arc<Store>, clock: Clock, speed: f64) -> anyhow::Result<Running> {
    let (running, ports) = start(&Settings { speed, ..Settings::default() }).await?;
    let author = Author { who: "Ferry Lane".into(), tab: "demo".into(), at: clock.now(), key: None, batch: None };
    let store = Arc::clone(store);
    tokio::task::spawn_blocking(move || {
        store.write(move |tx| {
            let there = links::list(tx)?;
            // The demo's amplifier is on a bank: a supply is not among its instruments.
            for role in Role::ALL.into_iter().filter(|role| *role != Role::Supply) {
                // The stand-in's own ports change with every start; a link of the user's own stays.
                let own = there.iter().find(|row| row.role == role).is_some_and(|row| row.meter.as_deref() != Some(STAND_IN));
                if !own {
                    let address = ports.of(instrument(role)).to_string();
                    links::save(tx, &author, &LinkRow { role, address, profile: GENERIC.into(), meter: Some(STAND_IN.into()) })?;
                }
            }
            Ok(())
        })
    })
    .await??;
    Ok(running)
}

/// Mark of a link of the demo's own.
const STAND_IN: &str = "stand-in";
