//! The database: one writer on its own thread, a small pool of readers.

use std::collections::BTreeSet;
use std::panic::{AssertUnwindSafe, catch_unwind};
use std::path::{Path, PathBuf};
use std::sync::mpsc::{self, RecvTimeoutError};
use std::sync::{Arc, Condvar, Mutex, OnceLock};
use std::thread::JoinHandle;
use std::time::Duration;

use jiff::Timestamp;
use rusqlite::{Connection, TransactionBehavior};

use crate::files::Files;
use crate::health::{self, DATABASE, Health};
use crate::lock::FolderLock;
use crate::read::session::{KnownSession, SessionCache};
use crate::read::summaries;
use crate::rows::arming;
use crate::write::{Committed, WriteTx, idempotency};
use crate::{StoreError, migrations};

/// Person who writes, from which tab, when.
#[derive(Debug, Clone)]
pub struct Author {
    /// The principal.
    pub who: String,
    /// The browser tab, for its own undo.
    pub tab: String,
    /// Now.
    pub at: Timestamp,
    /// Idempotency key and the hash of the request it was sent with.
    pub key: Option<(String, String)>,
    /// Acts of one batch are taken back at once.
    pub batch: Option<String>,
}

impl Author {
    /// The same author, whose acts from here on belong together.
    #[must_use]
    pub fn at_once(&self) -> Self {
        Self { batch: Some(crate::new_id()), ..self.clone() }
    }
}

/// A change of the records that was committed.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Change {
    /// The tab it was made in.
    pub tab: String,
    /// The amplifiers it concerns; none when it is of no amplifier: a bench, a link, the lines of many.
    pub amplifiers: Vec<String>,
}

type OnChange = Box<dyn Fn(Change) + Send + Sync>;

/// Named in place of a tab where the lines of the shelf were made.
pub const LINES: &str = "lines";

/// Whoever wants to hear of changes.
#[derive(Default)]
struct Hearer(OnceLock<OnChange>);

impl std::fmt::Debug for Hearer {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_tuple("Hearer").field(&self.0.get().is_some()).finish()
    }
}

impl Hearer {
    fn tell(&self, Committed { touched, tab }: &Committed) {
        if let (Some(hear), Some(tab)) = (self.0.get(), tab) {
            hear(Change { tab: tab.clone(), amplifiers: touched.iter().cloned().collect() });
        }
    }

    /// Lists that were asked for before were sorted and searched by older lines.
    fn tell_of_lines(&self) {
        if let Some(hear) = self.0.get() {
            hear(Change { tab: LINES.into(), amplifiers: Vec::new() });
        }
    }
}

/// A write. Answers which amplifiers' summaries it leaves to be made.
type Job = Box<dyn FnOnce(&mut Connection, &SessionCache) -> BTreeSet<String> + Send>;

/// Settings of a live connection that durability rests on.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Settings {
    /// `wal`.
    pub journal_mode: String,
    /// 2 is FULL.
    pub synchronous: i64,
    /// 1 is on.
    pub foreign_keys: i64,
}

const READERS: usize = 3;

/// The records of one data folder.
#[derive(Debug)]
pub struct Store {
    writer: Option<mpsc::Sender<Job>>,
    thread: Option<JoinHandle<()>>,
    readers: Mutex<Vec<Connection>>,
    reader_back: Condvar,
    cache: Arc<SessionCache>,
    hearer: Arc<Hearer>,
    path: PathBuf,
    files: Files,
    /// Damage that was found when it was opened: it is only read then.
    damage: Option<Vec<String>>,
    /// Let go last: it has the database's own file open.
    _lock: FolderLock,
}

impl Store {
    /// Files that lie beside the database.
    #[must_use]
    pub const fn files(&self) -> &Files {
        &self.files
    }

    /// Opens the records in a folder, creating and migrating them as needed.
    ///
    /// # Errors
    /// [`StoreError`] when another program has the folder, or the database cannot be used.
    pub fn open(folder: &Path) -> Result<Self, StoreError> {
        let mut lock = FolderLock::take(folder)?;
        let path = folder.join(DATABASE);
        health::not_emptied(folder)?;
        lock.hold(folder, &path)?;
        if let Health::Damaged(said) = health::look(&path)? {
            return Self::open_damaged(folder, lock, said);
        }
        let mut connection = Connection::open(&path)?;
        prepare(&connection)?;
        migrations::migrate(&mut connection)?;
        let tx = connection.transaction_with_behavior(TransactionBehavior::Immediate)?;
        summaries::freshen_all(&tx)?;
        arming::disarm_all(&tx)?;
        idempotency::prune(&tx, Timestamp::now())?;
        tx.commit()?;
        let (writer, jobs) = mpsc::channel::<Job>();
        let (cache, hearer) = (Arc::new(SessionCache::default()), Arc::<Hearer>::default());
        let thread = std::thread::Builder::new()
            .name("pukka-writer".into())
            .spawn({
                let cache = Arc::clone(&cache);
                let hearer = Arc::clone(&hearer);
                move || write_on(connection, &jobs, &cache, &hearer)
            })
            .map_err(|why| StoreError::Folder { folder: folder.display().to_string(), why })?;
        let readers = (0..READERS).map(|_| health::read_only(&path)).collect::<Result<_, _>>()?;
        Ok(Self {
            writer: Some(writer),
            thread: Some(thread),
            readers: Mutex::new(readers),
            reader_back: Condvar::new(),
            files: Files::in_folder(folder),
            cache,
            hearer,
            path,
            damage: None,
            _lock: lock,
        })
    }

    /// Opens damaged records to read them, as far as they can be read.
    fn open_damaged(folder: &Path, lock: FolderLock, said: Vec<String>) -> Result<Self, StoreError> {
        let path = folder.join(DATABASE);
        let damaged = |says: String| StoreError::Damaged { folder: folder.display().to_string(), says };
        let readers: Vec<Connection> = (0..READERS).map(|_| health::read_only(&path)).collect::<Result<_, _>>()?;
        let first = readers.first().ok_or(StoreError::Broken)?;
        let is_readable = health::version(first).is_ok_and(|version| version == migrations::latest())
            && first.query_row("SELECT count(*) FROM amplifier", [], |row| row.get::<_, i64>(0)).is_ok();
        if !is_readable {
            return Err(damaged(said.join("; ")));
        }
        Ok(Self {
            writer: None,
            thread: None,
            readers: Mutex::new(readers),
            reader_back: Condvar::new(),
            files: Files::in_folder(folder),
            cache: Arc::new(SessionCache::default()),
            hearer: Arc::default(),
            path,
            damage: Some(said),
            _lock: lock,
        })
    }

    /// Damage that was found when the records were opened, in SQLite's words: they are only read then.
    #[must_use]
    pub fn damage(&self) -> Option<&[String]> {
        self.damage.as_deref()
    }

    /// Runs `work` in one transaction on the writer's thread and returns after its commit. Blocks.
    ///
    /// # Errors
    /// What `work` says; the transaction is rolled back then.
    pub fn write<T: Send + 'static>(&self, work: impl FnOnce(&WriteTx) -> Result<T, StoreError> + Send + 'static) -> Result<T, StoreError> {
        let (answer, reply) = mpsc::sync_channel(1);
        let hearer = Arc::clone(&self.hearer);
        let job: Job = Box::new(move |connection, cache| {
            let done = catch_unwind(AssertUnwindSafe(|| {
                let tx = WriteTx::new(connection.transaction_with_behavior(TransactionBehavior::Immediate)?, cache);
                let value = work(&tx)?;
                Ok((value, tx.commit()?))
            }));
            let (value, committed) = match done.unwrap_or(Err(StoreError::Broken)) {
                Ok((value, committed)) => (Ok(value), committed),
                Err(error) => (Err(error), Committed::default()),
            };
            // The other side may be gone; the commit stands all the same.
            let _ = answer.send(value);
            hearer.tell(&committed);
            cache.let_go();
            committed.touched
        });
        self.writer.as_ref().ok_or(StoreError::ReadOnly)?.send(job).map_err(|_| StoreError::Broken)?;
        reply.recv().map_err(|_| StoreError::Broken)?
    }

    /// Runs `work` on a reader, on one unchanging view of the records. Blocks.
    ///
    /// # Errors
    /// What `work` says.
    pub fn read<T>(&self, work: impl FnOnce(&Connection) -> Result<T, StoreError>) -> Result<T, StoreError> {
        let connection = self.take_reader();
        // Work that panics gives the reader back all the same: three such faults would stop every page.
        let done = catch_unwind(AssertUnwindSafe(|| {
            let tx = connection.unchecked_transaction()?;
            work(&tx)
        }));
        self.readers.lock().unwrap_or_else(std::sync::PoisonError::into_inner).push(connection);
        self.reader_back.notify_one();
        done.unwrap_or(Err(StoreError::ReadBroken))
    }

    fn take_reader(&self) -> Connection {
        let mut free = self.readers.lock().unwrap_or_else(std::sync::PoisonError::into_inner);
        loop {
            if let Some(connection) = free.pop() {
                return connection;
            }
            free = self.reader_back.wait(free).unwrap_or_else(std::sync::PoisonError::into_inner);
        }
    }

    /// Tells `hear` of every change from here on, after its commit, on the writer's own thread: it must not block. There is one
    /// hearer; a second one is not heard of.
    pub fn on_change(&self, hear: impl Fn(Change) + Send + Sync + 'static) {
        let _ = self.hearer.0.set(Box::new(hear));
    }

    /// The session with this id, whole, as the records are now. Blocks.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is none.
    pub fn session(&self, id: &str) -> Result<Arc<KnownSession>, StoreError> {
        self.read(|tx| self.cache.get(tx, id))
    }

    /// Settings of the writer's own connection, as they are now.
    ///
    /// # Errors
    /// When the connection does not answer.
    pub fn writer_settings(&self) -> Result<Settings, StoreError> {
        self.write(|tx| {
            Ok(Settings {
                journal_mode: tx.pragma_query_value(None, "journal_mode", |row| row.get(0))?,
                synchronous: tx.pragma_query_value(None, "synchronous", |row| row.get(0))?,
                foreign_keys: tx.pragma_query_value(None, "foreign_keys", |row| row.get(0))?,
            })
        })
    }

    /// The data folder.
    #[must_use]
    pub fn folder(&self) -> &Path {
        self.path.parent().unwrap_or_else(|| Path::new("."))
    }

    /// The database file.
    #[must_use]
    pub fn path(&self) -> &Path {
        &self.path
    }
}

impl Drop for Store {
    fn drop(&mut self) {
        // Readers first: the writer's last act puts everything into the one file, which a reader would keep it from.
        self.readers.get_mut().unwrap_or_else(std::sync::PoisonError::into_inner).clear();
        self.writer.take();
        if let Some(thread) = self.thread.take() {
            // A writer that panicked has been reported by its own panic message.
            let _ = thread.join();
        }
    }
}

/// Time that nothing is written before summaries are made that writes left outdated: whoever logged asks for ladder and verdict first.
const AT_REST: Duration = Duration::from_millis(250);

/// Writes one job after another; in between, when nothing waits, makes summaries.
fn write_on(mut connection: Connection, jobs: &mpsc::Receiver<Job>, cache: &SessionCache, hearer: &Hearer) {
    let mut outdated: BTreeSet<String> = BTreeSet::new();
    // Of several the first is waited for; the others follow at once, as long as nothing is to be written.
    let mut rest = AT_REST;
    loop {
        let job = if outdated.is_empty() { jobs.recv().map_err(|_| RecvTimeoutError::Disconnected) } else { jobs.recv_timeout(rest) };
        match job {
            Ok(job) => {
                rest = AT_REST;
                outdated.extend(job(&mut connection, cache));
            }
            Err(RecvTimeoutError::Disconnected) => {
                // Where it fails the log stays beside the database, and is read at the next start.
                let _ = connection.query_row("PRAGMA wal_checkpoint(TRUNCATE)", [], |_| Ok(()));
                return;
            }
            Err(RecvTimeoutError::Timeout) => {
                rest = Duration::ZERO;
                let Some(amplifier_id) = outdated.pop_first() else { continue };
                // One that cannot be made stays outdated: whoever asks for it is told why.
                let _ = catch_unwind(AssertUnwindSafe(|| make_line(&mut connection, cache, &amplifier_id)));
                if outdated.is_empty() {
                    hearer.tell_of_lines();
                }
            }
        }
    }
}

/// Makes the summary of an amplifier, in one transaction.
fn make_line(connection: &mut Connection, cache: &SessionCache, amplifier_id: &str) -> Result<(), StoreError> {
    let tx = connection.transaction_with_behavior(TransactionBehavior::Immediate)?;
    summaries::freshen(&tx, cache, amplifier_id)?;
    Ok(tx.commit()?)
}

fn prepare(connection: &Connection) -> Result<(), StoreError> {
    connection.busy_timeout(Duration::from_secs(5))?;
    connection.pragma_update(None, "journal_mode", "wal")?;
    connection.pragma_update(None, "synchronous", "full")?;
    connection.pragma_update(None, "foreign_keys", "on")?;
    Ok(())
}
