//! One round of readings: every meter asked at the same time, each in its own order.

use std::collections::BTreeMap;
use std::sync::{Mutex, PoisonError};

use pukka_core::instruments::{BadReading, Filling, Quantity, Role, Value, fill, read};
use pukka_core::kernel::units::Level;
use pukka_core::live::{BurstReading, Digits, Method, Round, Stop};

use super::wave::Waves;
use crate::instruments::{Link, LinkFault};

/// The meters that there are.
#[derive(Clone)]
pub struct Linked {
    /// Reads the outputs; who only watches may do without.
    pub analyser: Option<Link>,
    /// At the amplifier's terminals.
    pub voltmeter: Option<Link>,
    /// Clamp or shunt.
    pub ammeter: Option<Link>,
    /// Feeds, and reads where nothing else does.
    pub supply: Option<Link>,
    /// On the heatsink.
    pub thermometer: Option<Link>,
}

/// The meters of a run.
pub struct Meters {
    linked: Linked,
    outputs: usize,
    load_ohm: f64,
    burst: bool,
    waves: Option<Mutex<Waves>>,
    /// The finest last digits so far: an instrument that writes 5 for 5.00 is as fine as it was before.
    finest: Mutex<Digits>,
}

/// Answers of a round, by instrument and question: quantities that share a question are read from one answer.
type Answers = BTreeMap<(Role, String), String>;

/// Reason why there is no reading.
enum Failed {
    Stop(Stop),
    Ranging(Role),
}

impl Meters {
    pub fn new(linked: Linked, outputs: usize, load_ohm: f64, method: &Method) -> Self {
        let burst = method.is_burst();
        let capture = linked.analyser.as_ref().and_then(|link| link.profile.capture.clone()).filter(|_| burst);
        let counted = matches!(method, Method::Burst { cycles: Some(_) });
        let waves = capture.map(|capture| Mutex::new(Waves::new(capture, outputs, load_ohm, counted)));
        Self { linked, outputs, load_ohm, burst, waves, finest: Mutex::default() }
    }

    /// Whether a burst's own wave is read.
    pub const fn reads_waves(&self) -> bool {
        self.waves.is_some()
    }

    /// Whether distortion is read, by any way there is.
    pub fn reads_distortion(&self) -> bool {
        self.reads_waves()
            || (!self.burst && self.linked.analyser.as_ref().is_some_and(|link| link.profile.reading(Quantity::Distortion).is_some()))
    }

    /// The longest that any of them takes to follow, milliseconds.
    pub fn settle_ms(&self) -> u64 {
        let Linked { analyser, voltmeter, ammeter, supply, thermometer } = &self.linked;
        let links = [analyser.as_ref(), voltmeter.as_ref(), ammeter.as_ref(), supply.as_ref(), thermometer.as_ref()];
        let of = |link: &Link| {
            let own = link.role.reads().iter().filter_map(|quantity| link.profile.reading(*quantity)?.settle_ms).max().unwrap_or(0);
            // A thermometer follows the heatsink, not the level.
            if link.role == Role::Thermometer { 0 } else { own.max(link.profile.settle_ms) }
        };
        links.into_iter().flatten().map(of).max().unwrap_or(0)
    }

    /// Reads all of them.
    ///
    /// # Errors
    /// The stop that a meter which does not answer, or answers no number twice, comes to.
    pub async fn round(&self, t_ms: u64, level_db: Option<Level>) -> Result<Round, Stop> {
        let mut round = Round { t_ms, level_db, ..Round::default() };
        match self.all(&mut round).await {
            Ok(()) => {}
            Err(Failed::Stop(stop)) => return Err(stop),
            Err(Failed::Ranging(role)) => round.ranging = Some(role),
        }
        Ok(round)
    }

    async fn all(&self, round: &mut Round) -> Result<(), Failed> {
        let (linked, level_db) = (&self.linked, round.level_db);
        let (outputs, supply_v, supply_a, temperature) = tokio::join!(
            self.outputs(level_db),
            of_supply(linked.voltmeter.as_ref(), linked.supply.as_ref(), Quantity::SupplyV),
            of_supply(linked.ammeter.as_ref(), linked.supply.as_ref(), Quantity::SupplyA),
            of_supply(linked.thermometer.as_ref(), None, Quantity::Temperature),
        );
        let (outputs, digits) = outputs?;
        let supply_a = supply_a?;
        round.digits = self.finest(Digits { supply_a: supply_a.map_or(0.0, |value| value.digit), ..digits });
        match outputs {
            Some(outputs) => outputs.fill(round),
            None => round.before_wave = true,
        }
        round.supply_v = supply_v?.map(|value| value.value);
        round.supply_a = supply_a.map(|value| value.value);
        round.temperature_c = temperature?.map(|value| value.value);
        Ok(())
    }

    fn finest(&self, now: Digits) -> Digits {
        let mut finest = self.finest.lock().unwrap_or_else(PoisonError::into_inner);
        let finer = |before: f64, now: f64| if before > 0.0 && (now <= 0.0 || before < now) { before } else { now };
        *finest = Digits {
            power_w: finer(finest.power_w, now.power_w),
            thd_ratio: finer(finest.thd_ratio, now.thd_ratio),
            supply_a: finer(finest.supply_a, now.supply_a),
        };
        *finest
    }

    /// Supply volts alone, before a run.
    pub async fn supply_v(&self) -> Result<Option<f64>, Stop> {
        match of_supply(self.linked.voltmeter.as_ref(), self.linked.supply.as_ref(), Quantity::SupplyV).await {
            Ok(volts) => Ok(volts.map(|value| value.value)),
            Err(Failed::Stop(stop)) => Err(stop),
            Err(Failed::Ranging(_)) => Ok(None),
        }
    }

    /// Watts of the outputs alone: whether the level is really down.
    pub async fn total_w(&self) -> Option<f64> {
        let analyser = self.linked.analyser.as_ref()?;
        let mut answers = Answers::new();
        let mut total = 0.0;
        for output in 1..=self.outputs {
            total += self.power(analyser, Quantity::Power, output, &mut answers).await.ok()??.value;
        }
        Some(total)
    }

    /// What the outputs read; nothing while a wave of this level is waited for.
    async fn outputs(&self, level_db: Option<Level>) -> Result<(Option<BurstReading>, Digits), Failed> {
        let Some(analyser) = &self.linked.analyser else { return Ok((Some(BurstReading::default()), Digits::default())) };
        if let Some(waves) = &self.waves {
            let reading = Waves::read(waves, analyser, level_db).await.map_err(Failed::Stop)?;
            return Ok((reading, Digits::default()));
        }
        let power = if self.burst { Quantity::Burst } else { Quantity::Power };
        let (mut powers, mut worst, mut digits) = (Vec::with_capacity(self.outputs), None::<f64>, Digits::default());
        let mut answers = Answers::new();
        for output in 1..=self.outputs {
            if let Some(value) = self.power(analyser, power, output, &mut answers).await? {
                powers.push(value.value);
                digits.power_w += value.digit;
            }
            if !self.burst
                && let Some(thd) = ask(analyser, Quantity::Distortion, output, &mut answers).await?
            {
                worst = Some(worst.unwrap_or(0.0).max(thd.value));
                digits.thd_ratio = digits.thd_ratio.max(thd.digit);
            }
        }
        Ok((Some(BurstReading { power_w: powers, thd_ratio: worst, ..BurstReading::default() }), digits))
    }

    /// Watts of an output: as they are read, or made of volts by the measured load.
    async fn power(&self, analyser: &Link, power: Quantity, output: usize, answers: &mut Answers) -> Result<Option<Value>, Failed> {
        let watts = ask(analyser, power, output, answers).await?;
        let volts = if power == Quantity::Power { ask(analyser, Quantity::OutputV, output, answers).await? } else { None };
        let Some(volts) = volts else { return Ok(watts) };
        let made = Value { value: volts.value.powi(2) / self.load_ohm, digit: 2.0 * volts.value * volts.digit / self.load_ohm };
        let Some(watts) = watts else { return Ok(Some(made)) };
        // Both are read: they have to be of one load.
        let (least, most) = (watts.value.min(made.value), watts.value.max(made.value));
        if most > SPEAKS_W && least < AGREES * most {
            let says = format!(
                "output {output} reads {:.1} W, and its volts make {:.1} W of {:.2} Ω. Which load is switched on?",
                watts.value, made.value, self.load_ohm
            );
            return Err(Failed::Stop(Stop::Impossible { says }));
        }
        Ok(Some(watts))
    }
}

/// Watts from which on two ways of reading them are held against one another, and how far they may be apart.
const SPEAKS_W: f64 = 5.0;
const AGREES: f64 = 0.8;

/// A quantity of the supply: from its own meter, or from what the supply itself reads.
async fn of_supply(own: Option<&Link>, supply: Option<&Link>, quantity: Quantity) -> Result<Option<Value>, Failed> {
    match own.or(supply) {
        Some(link) => ask(link, quantity, 1, &mut Answers::new()).await,
        None => Ok(None),
    }
}

/// A quantity; nothing when the profile does not read it. What is no reading is asked for once more.
async fn ask(link: &Link, quantity: Quantity, output: usize, answers: &mut Answers) -> Result<Option<Value>, Failed> {
    let role = link.role;
    let Some(how) = link.profile.reading(quantity) else { return Ok(None) };
    let query = fill(&how.query, Filling { output, ..Filling::default() });
    let mut again = false;
    loop {
        let answer = match answers.get(&(role, query.clone())).filter(|_| !again) {
            Some(answer) => answer.clone(),
            None => link.ask(query.clone()).await.map_err(|fault: LinkFault| {
                tracing::warn!(%fault, role = role.word(), "a meter was lost");
                Failed::Stop(Stop::LinkLost { role })
            })?,
        };
        match read(quantity, how, &answer) {
            Ok(value) => {
                answers.insert((role, query), answer);
                return Ok(Some(value));
            }
            Err(BadReading::Overload) => return Err(Failed::Ranging(role)),
            Err(bad) if again => return Err(Failed::Stop(Stop::BadReading { role, says: bad.to_string() })),
            Err(_) => again = true,
        }
    }
}
