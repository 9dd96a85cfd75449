//! One link: a task that owns the connection, asks one thing at a time, and comes back by itself.

use std::collections::VecDeque;
use std::sync::Arc;
use std::time::Duration;

use pukka_core::instruments::{Playing, Profile, Role};
use serde::{Deserialize, Serialize};
use thiserror::Error;
use tokio::io::{AsyncBufReadExt, AsyncReadExt, AsyncWriteExt, BufReader};
use tokio::net::TcpStream;
use tokio::net::tcp::{OwnedReadHalf, OwnedWriteHalf};
use tokio::sync::{mpsc, oneshot, watch};
use tokio::time::{Instant, sleep, timeout};

use super::OnZero;

/// What a link is doing.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "kind", rename_all = "kebab-case")]
pub enum LinkState {
    /// It is trying to get through.
    Connecting,
    /// It is there.
    Ready {
        /// Who it says it is.
        idn: String,
    },
    /// It is not, and is tried again by itself.
    Faulty {
        /// Why.
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

/// Why nothing came of a line.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
pub enum LinkFault {
    /// There is no connection.
    #[error("is not connected: {0}")]
    NotConnected(String),
    /// It took too long.
    #[error("gave no answer for {} s", .0.as_secs_f64())]
    TimedOut(Duration),
    /// It hung up.
    #[error("hung up")]
    HungUp,
    /// It sent too long a line.
    #[error("sent a line without an end")]
    TooLong,
    /// The link was closed by us.
    #[error("was closed")]
    Closed,
}

enum Request {
    Ask(String, oneshot::Sender<Result<String, LinkFault>>),
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

/// Where it is said that the level is down.
type Zeroed = oneshot::Sender<Result<(), LinkFault>>;

/// A link; the task ends when the last of them is dropped.
#[derive(Clone)]
pub struct Link {
    /// What the instrument does.
    pub role: Role,
    /// Where it is.
    pub address: Arc<str>,
    /// How it is spoken to.
    pub profile: Arc<Profile>,
    /// Which meter of the bench it is.
    pub meter: Option<String>,
    requests: mpsc::Sender<Request>,
    urgent: mpsc::Sender<Zeroed>,
    state: watch::Receiver<LinkState>,
}

/// Requests that wait at the most: more would only be stale.
const WAITING: usize = 8;
const MOST_LINE: u64 = 64 * 1024;
const FIRST_PAUSE: Duration = Duration::from_millis(200);
const LAST_PAUSE: Duration = Duration::from_secs(5);
const CONNECTS_WITHIN: Duration = Duration::from_secs(2);

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

    /// What it is doing.
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
        let (answer, reply) = oneshot::channel();
        self.requests.try_send(Request::Ask(line.into(), answer)).map_err(|_| LinkFault::Closed)?;
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

    /// Takes the generator's level away, before anything that waits and in the middle of any query. It is down when the generator
    /// has answered what was asked behind it: what was only sent may never arrive.
    ///
    /// # Errors
    /// [`LinkFault`]: then nobody knows whether the level is down.
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

struct Wire {
    read: BufReader<OwnedReadHalf>,
    write: OwnedWriteHalf,
    /// What came of a line so far: reading may be broken off, and nothing is lost.
    so_far: Vec<u8>,
}

/// Why a connection ended.
enum End {
    /// It is tried again.
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
                    // A connection that stood for a while starts the pauses anew.
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
        let stream = match timeout(CONNECTS_WITHIN, TcpStream::connect(&*self.address)).await {
            Err(_) => return End::Lost(format!("{} does not answer", self.address)),
            Ok(Err(error)) if error.kind() == std::io::ErrorKind::ConnectionRefused => {
                return End::Lost(format!("{} refused the connection", self.address));
            }
            Ok(Err(error)) => return End::Lost(format!("{}: {error}", self.address)),
            Ok(Ok(stream)) => stream,
        };
        // Small lines are to go at once; a system that cannot is slower, not wrong.
        let _ = stream.set_nodelay(true);
        let (read, write) = stream.into_split();
        let mut wire = Wire { read: BufReader::new(read), write, so_far: Vec::new() };
        match self.greet(&mut wire).await {
            Err(fault) => return End::Lost(format!("{} {fault}", self.address)),
            Ok(idn) => self.says.send_replace(LinkState::Ready { idn }),
        };
        self.serve(&mut wire).await
    }

    /// Down with the level first, whatever else; then who is there.
    async fn greet(&mut self, wire: &mut Wire) -> Result<String, LinkFault> {
        self.take_level_away(wire).await?;
        for line in self.profile.on_connect.clone() {
            self.send(wire, &line).await?;
        }
        let idn = self.answer(wire, &self.profile.identify.clone()).await?;
        self.level_is_down();
        Ok(idn)
    }

    async fn serve(&mut self, wire: &mut Wire) -> End {
        loop {
            tokio::select! {
                biased;
                hurried = self.hurried.recv() => {
                    let Some(zeroed) = hurried else { return End::Unwanted };
                    if let Err(fault) = self.zero(wire, zeroed).await { return End::Lost(fault.to_string()) }
                }
                request = self.asked.recv() => {
                    let lost = match request {
                        None => return End::Unwanted,
                        // Whoever asked has gone: a level that a stop overtook is not set any more.
                        Some(request) if request.is_dropped() => None,
                        Some(Request::Ask(line, answer)) => {
                            let found = self.answer(wire, &line).await;
                            let lost = found.clone().err();
                            let _ = answer.send(found);
                            lost
                        }
                        Some(Request::Tell(lines, answer)) => {
                            let mut done = Ok(());
                            for line in lines {
                                if done.is_ok() { done = self.send(wire, &line).await }
                            }
                            let lost = done.clone().err();
                            let _ = answer.send(done);
                            lost
                        }
                    };
                    // An answer that came too late would be taken for the next one: start over.
                    if let Some(fault) = lost { return End::Lost(fault.to_string()) }
                }
                // Nothing was asked: what comes now is a hang-up, or stale.
                line = wire.line() => match line {
                    Ok(_) => {}
                    Err(fault) => return End::Lost(fault.to_string()),
                },
            }
        }
    }

    /// Sends what takes the level away; nothing to an instrument that has none.
    async fn take_level_away(&self, wire: &mut Wire) -> Result<(), LinkFault> {
        for line in self.generator().iter().flat_map(|generator| &generator.zero) {
            self.send(wire, line).await?;
        }
        Ok(())
    }

    fn level_is_down(&self) {
        if self.generator().is_some() {
            (self.on_zero)();
        }
    }

    /// What there is to set to zero.
    fn generator(&self) -> Option<&Playing> {
        self.profile.generator.as_ref().filter(|_| self.role == Role::Generator)
    }

    async fn send(&self, wire: &mut Wire, line: &str) -> Result<(), LinkFault> {
        let bytes = format!("{line}{}", self.profile.line_end);
        wire.write.write_all(bytes.as_bytes()).await.map_err(|_| LinkFault::HungUp)
    }

    async fn answer(&mut self, wire: &mut Wire, query: &str) -> Result<String, LinkFault> {
        self.exchange(wire, Some(query), VecDeque::new()).await
    }

    async fn zero(&mut self, wire: &mut Wire, zeroed: Zeroed) -> Result<(), LinkFault> {
        self.exchange(wire, None, VecDeque::from([zeroed])).await.map(drop)
    }

    /// Asks a query and takes the level away for those who wait for that, and gives the query's answer.
    async fn exchange(&mut self, wire: &mut Wire, query: Option<&str>, mut zeroing: VecDeque<Zeroed>) -> Result<String, LinkFault> {
        let found = self.answers(wire, query, &mut zeroing).await;
        for zeroed in zeroing {
            // Left over only when the link was lost. Whoever asked may be gone.
            let _ = zeroed.send(found.clone().map(drop));
        }
        found
    }

    /// The answers in their order: the query's, then one for each call for zero; more calls are heard meanwhile. Those that were
    /// answered are taken out of `zeroing`.
    async fn answers(&mut self, wire: &mut Wire, query: Option<&str>, zeroing: &mut VecDeque<Zeroed>) -> Result<String, LinkFault> {
        match query {
            Some(query) => self.send(wire, query).await?,
            None => self.hurry(wire).await?,
        }
        let mut found = query.is_none().then(String::new);
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
                    self.hurry(wire).await?;
                    until.as_mut().reset(Instant::now() + most);
                }
                line = wire.line() => match (line?, &found) {
                    (line, None) => found = Some(line),
                    (_, Some(_)) => {
                        self.level_is_down();
                        let _ = zeroing.pop_front().map(|zeroed| zeroed.send(Ok(())));
                    }
                },
                () = &mut until => return Err(LinkFault::TimedOut(most)),
            }
        }
    }

    /// What takes the level away, and a question behind it: an instrument answers in order, so its answer says that all before it
    /// arrived.
    async fn hurry(&self, wire: &mut Wire) -> Result<(), LinkFault> {
        self.take_level_away(wire).await?;
        self.send(wire, &self.profile.identify).await
    }
}

impl Wire {
    /// A line; what was read of it stays when this is broken off.
    async fn line(&mut self) -> Result<String, LinkFault> {
        loop {
            let room = MOST_LINE.saturating_sub(self.so_far.len() as u64);
            let count = (&mut self.read).take(room).read_until(b'\n', &mut self.so_far).await.map_err(|_| LinkFault::HungUp)?;
            if self.so_far.ends_with(b"\n") {
                let line = String::from_utf8_lossy(&self.so_far).trim_end().to_owned();
                self.so_far.clear();
                return Ok(line);
            }
            if self.so_far.len() as u64 >= MOST_LINE {
                return Err(LinkFault::TooLong);
            }
            if count == 0 {
                return Err(LinkFault::HungUp);
            }
        }
    }
}
