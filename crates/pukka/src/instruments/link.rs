//! One link: a task that owns the connection, asks one thing at a time, and comes back by itself.

use std::collections::VecDeque;
use std::sync::Arc;
use std::time::Duration;

use pukka_core::instruments::{Profile, Role};
use serde::{Deserialize, Serialize};
use thiserror::Error;
use tokio::sync::{mpsc, oneshot, watch};
use tokio::time::{Instant, sleep, timeout};

use super::OnZero;
use super::proof::Proof;
use super::wire::{CONNECTS_WITHIN, Reply, Wire};

/// State of a link.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "kind", rename_all = "kebab-case")]
pub enum LinkState {
    /// Trying to get through.
    Connecting,
    /// There.
    Ready {
        /// Answer to the identity query.
        idn: String,
    },
    /// Not, and is tried again by itself.
    Faulty {
        /// Reason.
        says: String,
    },
}

impl LinkState {
    /// Whether it answers.
    #[must_use]
    pub const fn is_ready(&self) -> bool {
        matches!(self, Self::Ready { .. })
    }
}

/// Reason why nothing came of a line.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
pub enum LinkFault {
    /// There is no connection.
    #[error("is not connected: {0}")]
    NotConnected(String),
    /// Took too long.
    #[error("gave no answer for {} s", .0.as_secs_f64())]
    TimedOut(Duration),
    /// Hung up.
    #[error("hung up")]
    HungUp,
    /// Sent too long a line.
    #[error("sent a line without an end")]
    TooLong,
    /// Sent a block where a line was asked for, or the other way round.
    #[error("answered in another form than it was asked for")]
    Form,
    /// Answers, and its level is not down.
    #[error("does not take its level away: {0}")]
    NotObeyed(String),
    /// The link was closed by us.
    #[error("was closed")]
    Closed,
}

enum Request {
    Ask(String, oneshot::Sender<Result<Reply, LinkFault>>),
    Tell(Vec<String>, oneshot::Sender<Result<(), LinkFault>>),
}

impl Request {
    fn is_dropped(&self) -> bool {
        match self {
            Self::Ask(_, answer) => answer.is_closed(),
            Self::Tell(_, answer) => answer.is_closed(),
        }
    }
}

/// Channel that says that the level is down.
type Zeroed = oneshot::Sender<Result<(), LinkFault>>;

/// A link; the task ends when the last of them is dropped.
#[derive(Clone)]
pub struct Link {
    /// Task of the instrument.
    pub role: Role,
    /// Place.
    pub address: Arc<str>,
    /// Profile that it is spoken to by.
    pub profile: Arc<Profile>,
    /// Matching meter of the bench.
    pub meter: Option<String>,
    requests: mpsc::Sender<Request>,
    urgent: mpsc::Sender<Zeroed>,
    state: watch::Receiver<LinkState>,
}

/// Requests that wait at the most: more would only be stale.
const WAITING: usize = 8;
const FIRST_PAUSE: Duration = Duration::from_millis(200);
const LAST_PAUSE: Duration = Duration::from_secs(5);

impl Link {
    /// Opens a link: it connects by itself, and again whenever it is lost.
    pub(super) fn open(role: Role, address: String, profile: Profile, meter: Option<String>, on_zero: OnZero) -> Self {
        let (requests, asked) = mpsc::channel(WAITING);
        let (urgent, hurried) = mpsc::channel(WAITING);
        let (says, state) = watch::channel(LinkState::Connecting);
        let profile = Arc::new(profile);
        let address: Arc<str> = address.into();
        let task = Task { role, address: Arc::clone(&address), profile: Arc::clone(&profile), asked, hurried, says, on_zero };
        tokio::spawn(task.run());
        Self { role, address, profile, meter, requests, urgent, state }
    }

    /// State.
    #[must_use]
    pub fn state(&self) -> LinkState {
        self.state.borrow().clone()
    }

    /// Waits until it is no longer ready.
    pub async fn lost(&self) {
        let mut state = self.state.clone();
        // A task that is gone is a link that is lost.
        let _ = state.wait_for(|state| !state.is_ready()).await;
    }

    /// Sends a query and gives its answer.
    ///
    /// # Errors
    /// [`LinkFault`].
    pub async fn ask(&self, line: impl Into<String>) -> Result<String, LinkFault> {
        match self.request(line.into()).await? {
            Reply::Line(line) => Ok(line),
            Reply::Block(_) => Err(LinkFault::Form),
        }
    }

    /// Sends a query that is answered by a block of definite length.
    ///
    /// # Errors
    /// [`LinkFault`].
    pub async fn ask_block(&self, line: impl Into<String>) -> Result<Vec<u8>, LinkFault> {
        match self.request(line.into()).await? {
            Reply::Block(bytes) => Ok(bytes),
            Reply::Line(_) => Err(LinkFault::Form),
        }
    }

    async fn request(&self, line: String) -> Result<Reply, LinkFault> {
        let (answer, reply) = oneshot::channel();
        self.requests.try_send(Request::Ask(line, answer)).map_err(|_| LinkFault::Closed)?;
        reply.await.unwrap_or(Err(LinkFault::Closed))
    }

    /// Sends lines that are not answered.
    ///
    /// # Errors
    /// [`LinkFault`].
    pub async fn tell(&self, lines: Vec<String>) -> Result<(), LinkFault> {
        let (answer, reply) = oneshot::channel();
        self.requests.try_send(Request::Tell(lines, answer)).map_err(|_| LinkFault::Closed)?;
        reply.await.unwrap_or(Err(LinkFault::Closed))
    }

    /// Takes the generator's level away, or switches the supply off, before anything that waits and in the middle of any query. It is
    /// down when the instrument has read back that it is, or, where it cannot, has answered what was asked behind it: what was only sent
    /// may never arrive.
    ///
    /// # Errors
    /// [`LinkFault`]: [`LinkFault::NotObeyed`] when it is not, any other when nobody knows.
    pub async fn zero(&self) -> Result<(), LinkFault> {
        let (answer, reply) = oneshot::channel();
        self.urgent.try_send(answer).map_err(|_| LinkFault::Closed)?;
        let most = CONNECTS_WITHIN + Duration::from_millis(self.profile.timeout_ms);
        match timeout(most, reply).await {
            Ok(done) => done.unwrap_or(Err(LinkFault::Closed)),
            Err(_) => Err(LinkFault::TimedOut(most)),
        }
    }
}

struct Task {
    role: Role,
    address: Arc<str>,
    profile: Arc<Profile>,
    asked: mpsc::Receiver<Request>,
    hurried: mpsc::Receiver<Zeroed>,
    says: watch::Sender<LinkState>,
    on_zero: OnZero,
}

/// Reason why a connection ended.
enum End {
    /// Tried again.
    Lost(String),
    /// Nobody wants the link any more.
    Unwanted,
}

impl Task {
    async fn run(mut self) {
        let mut pause = FIRST_PAUSE;
        loop {
            let started = Instant::now();
            match self.connection().await {
                End::Unwanted => return,
                End::Lost(why) => {
                    // A connection that stood for a while starts the pauses again.
                    if started.elapsed() > LAST_PAUSE {
                        pause = FIRST_PAUSE;
                    }
                    if self.refuse_for(pause, why).await {
                        return;
                    }
                    pause = (pause * 2).min(LAST_PAUSE);
                }
            }
        }
    }

    /// While there is no connection, every request is refused at once. True when nobody wants the link any more.
    async fn refuse_for(&mut self, pause: Duration, why: String) -> bool {
        self.says.send_replace(LinkState::Faulty { says: why.clone() });
        let until = sleep(pause);
        tokio::pin!(until);
        loop {
            let refused = || LinkFault::NotConnected(why.clone());
            tokio::select! {
                () = &mut until => return false,
                request = self.asked.recv() => match request {
                    None => return true,
                    Some(Request::Ask(_, answer)) => drop(answer.send(Err(refused()))),
                    Some(Request::Tell(_, answer)) => drop(answer.send(Err(refused()))),
                },
                hurried = self.hurried.recv() => match hurried {
                    None => return true,
                    Some(answer) => drop(answer.send(Err(refused()))),
                },
            }
        }
    }

    async fn connection(&mut self) -> End {
        let mut wire = match Wire::connect(&self.address, &self.profile.serial).await {
            Ok(wire) => wire,
            Err(why) => return End::Lost(why),
        };
        match self.greet(&mut wire).await {
            Err(fault) => return End::Lost(format!("{} {fault}", self.address)),
            Ok(idn) => self.says.send_replace(LinkState::Ready { idn }),
        };
        self.serve(&mut wire).await
    }

    /// Down with a generator's level first, whatever else; then who is there. A supply is left as it is: somebody may be using it.
    async fn greet(&mut self, wire: &mut Wire) -> Result<String, LinkFault> {
        let down = Proof::of(&self.profile, self.role).filter(|_| self.role == Role::Generator);
        if let Some(proof) = &down {
            self.send_all(wire, &proof.lines).await?;
        }
        self.send_all(wire, &self.profile.on_connect.clone()).await?;
        // Whoever answers another question than the one that was asked says so here, and not in the middle of a run.
        let idn = self.line(wire, &self.profile.identify.clone()).await?;
        if let Some(proof) = &down {
            for query in proof.reads_back() {
                // Each has to say so: nothing is in a hurry here.
                proof.accepts(query, &self.line(wire, query).await?)?;
            }
            self.level_is_down();
        }
        Ok(idn)
    }

    async fn send_all(&self, wire: &mut Wire, lines: &[String]) -> Result<(), LinkFault> {
        wire.send_all(lines, &self.profile.line_end).await
    }

    async fn line(&mut self, wire: &mut Wire, query: &str) -> Result<String, LinkFault> {
        match self.exchange(wire, Some(query), VecDeque::new()).await? {
            Reply::Line(line) => Ok(line),
            Reply::Block(_) => Err(LinkFault::Form),
        }
    }

    async fn serve(&mut self, wire: &mut Wire) -> End {
        loop {
            tokio::select! {
                biased;
                hurried = self.hurried.recv() => {
                    let Some(zeroed) = hurried else { return End::Unwanted };
                    let done = self.exchange(wire, None, VecDeque::from([zeroed])).await;
                    if let Err(fault) = done { return End::Lost(fault.to_string()) }
                }
                request = self.asked.recv() => {
                    let lost = match request {
                        None => return End::Unwanted,
                        // Whoever asked has gone: a level that a stop overtook is not set any more.
                        Some(request) if request.is_dropped() => None,
                        Some(Request::Ask(line, answer)) => {
                            let found = self.exchange(wire, Some(&line), VecDeque::new()).await;
                            let lost = found.as_ref().err().cloned();
                            let _ = answer.send(found);
                            lost
                        }
                        Some(Request::Tell(lines, answer)) => {
                            let done = self.send_all(wire, &lines).await;
                            let lost = done.clone().err();
                            let _ = answer.send(done);
                            lost
                        }
                    };
                    // An answer that came too late would be taken for the next one: start over.
                    if let Some(fault) = lost { return End::Lost(fault.to_string()) }
                }
                // Nothing was asked: what comes now is a hang-up, or stale.
                stale = wire.reply() => match stale {
                    Ok(_) => {}
                    Err(fault) => return End::Lost(fault.to_string()),
                },
            }
        }
    }

    fn level_is_down(&self) {
        if self.role == Role::Generator {
            (self.on_zero)();
        }
    }

    /// Asks a query and takes the level away for those who wait for that, and gives the query's answer.
    async fn exchange(&mut self, wire: &mut Wire, query: Option<&str>, mut zeroing: VecDeque<Zeroed>) -> Result<Reply, LinkFault> {
        let found = self.answers(wire, query, &mut zeroing).await;
        for zeroed in zeroing {
            // Left over only when the link was lost. Whoever asked may be gone.
            let _ = zeroed.send(found.as_ref().map(|_| ()).map_err(Clone::clone));
        }
        found
    }

    /// The answers in their order: the query's, then those that prove each call for zero; more calls are heard meanwhile. Those that
    /// were answered are taken out of `zeroing`.
    async fn answers(&mut self, wire: &mut Wire, query: Option<&str>, zeroing: &mut VecDeque<Zeroed>) -> Result<Reply, LinkFault> {
        let proof = Proof::of(&self.profile, self.role).unwrap_or_else(|| Proof::answered(&self.profile));
        match query {
            Some(query) => wire.send(query, &self.profile.line_end).await?,
            None => self.hurry(wire, &proof).await?,
        }
        let mut found = query.is_none().then(|| Reply::Line(String::new()));
        let mut said: Vec<String> = Vec::new();
        let most = Duration::from_millis(self.profile.timeout_ms);
        let until = sleep(most);
        tokio::pin!(until);
        loop {
            if let Some(found) = found.take_if(|_| zeroing.is_empty()) {
                return Ok(found);
            }
            tokio::select! {
                biased;
                Some(zeroed) = self.hurried.recv() => {
                    zeroing.push_back(zeroed);
                    self.hurry(wire, &proof).await?;
                    until.as_mut().reset(Instant::now() + most);
                }
                reply = wire.reply() => match (reply?, &found) {
                    (reply, None) => found = Some(reply),
                    (Reply::Block(_), Some(_)) => return Err(LinkFault::Form),
                    (Reply::Line(line), Some(_)) => {
                        said.push(line);
                        if said.len() < proof.queries.len() {
                            continue;
                        }
                        let down = proof.all(&std::mem::take(&mut said));
                        if down.is_ok() {
                            self.level_is_down();
                        }
                        let _ = zeroing.pop_front().map(|zeroed| zeroed.send(down));
                    }
                },
                () = &mut until => return Err(LinkFault::TimedOut(most)),
            }
        }
    }

    /// Messages that take the level away, and the questions behind it: an instrument answers in order, so their answers say that all before
    /// them arrived.
    async fn hurry(&self, wire: &mut Wire, proof: &Proof) -> Result<(), LinkFault> {
        self.send_all(wire, &proof.lines).await?;
        self.send_all(wire, &proof.queries).await
    }
}
