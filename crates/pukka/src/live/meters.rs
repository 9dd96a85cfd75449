//! One round of readings: every meter asked at the same time, each in its own order.

use pukka_core::instruments::{Filling, Quantity, Role, fill, read};
use pukka_core::kernel::units::Level;
use pukka_core::live::{Method, Round, Stop};

use crate::instruments::{Link, LinkFault};

/// The meters of a run.
#[derive(Clone)]
pub struct Meters {
    analyser: Link,
    voltmeter: Option<Link>,
    ammeter: Option<Link>,
    outputs: usize,
    burst: bool,
}

impl Meters {
    pub fn new(analyser: Link, voltmeter: Option<Link>, ammeter: Option<Link>, outputs: usize, method: &Method) -> Self {
        Self { analyser, voltmeter, ammeter, outputs, burst: *method == Method::Burst }
    }

    /// Reads all of them.
    ///
    /// # Errors
    /// The stop that a meter which does not answer, or answers no number, comes to.
    pub async fn round(&self, t_ms: u64, level_db: Option<Level>) -> Result<Round, Stop> {
        let (output, supply_v, supply_a) =
            tokio::join!(self.outputs(), one(self.voltmeter.as_ref(), Quantity::SupplyV), one(self.ammeter.as_ref(), Quantity::SupplyA));
        let (power_w, thd_ratio) = output?;
        Ok(Round { t_ms, level_db, power_w, thd_ratio, supply_v: supply_v?, supply_a: supply_a? })
    }

    /// Supply volts alone, before a run.
    pub async fn supply_v(&self) -> Result<Option<f64>, Stop> {
        one(self.voltmeter.as_ref(), Quantity::SupplyV).await
    }

    async fn outputs(&self) -> Result<(Vec<f64>, Option<f64>), Stop> {
        let power = if self.burst { Quantity::Burst } else { Quantity::Power };
        let mut powers = Vec::with_capacity(self.outputs);
        let mut worst: Option<f64> = None;
        for output in 1..=self.outputs {
            powers.extend(ask(&self.analyser, power, output).await?);
            if !self.burst
                && let Some(thd) = ask(&self.analyser, Quantity::Distortion, output).await?
            {
                worst = Some(worst.unwrap_or(0.0).max(thd));
            }
        }
        Ok((powers, worst))
    }
}

async fn one(link: Option<&Link>, quantity: Quantity) -> Result<Option<f64>, Stop> {
    match link {
        Some(link) => ask(link, quantity, 1).await,
        None => Ok(None),
    }
}

/// One quantity; nothing when the profile does not read it.
async fn ask(link: &Link, quantity: Quantity, output: usize) -> Result<Option<f64>, Stop> {
    let role: Role = link.role;
    let Some(how) = link.profile.read.get(quantity.word()) else { return Ok(None) };
    let query = fill(&how.query, Filling { hz: 0.0, level_db: Level::FULL, shape: "", output });
    let answer = link.ask(query).await.map_err(|fault: LinkFault| {
        tracing::warn!(%fault, role = role.word(), "a meter was lost");
        Stop::LinkLost { role }
    })?;
    read(quantity, how, &answer).map(Some).map_err(|bad| Stop::BadReading { role, says: bad.to_string() })
}
