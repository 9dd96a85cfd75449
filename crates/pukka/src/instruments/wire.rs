//! A connection to an instrument, TCP or serial: lines out, lines and blocks in.

use std::pin::Pin;
use std::time::Duration;

use pukka_core::instruments::{Parity, Profile, Role, Serial};
use tokio::io::{AsyncBufReadExt, AsyncRead, AsyncReadExt, AsyncWrite, AsyncWriteExt, BufReader};
use tokio::net::TcpStream;
use tokio::time::timeout;

use super::link::LinkFault;
use super::proof::Proof;

const MOST_LINE: u64 = 64 * 1024;
/// The longest block that is taken: some seconds of a wave.
const MOST_BLOCK: usize = 64 * 1024 * 1024;
/// A connection that takes longer is none.
pub const CONNECTS_WITHIN: Duration = Duration::from_secs(2);
/// Interval at which a serial port is looked at for an end.
const SERIAL_TICK: Duration = Duration::from_millis(20);

/// Answer of an instrument.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Reply {
    /// A line.
    Line(String),
    /// A block of definite length.
    Block(Vec<u8>),
}

/// A connection. Reading may be broken off at any await: what was read of a reply so far stays.
pub struct Wire {
    read: BufReader<Pin<Box<dyn AsyncRead + Send>>>,
    write: Pin<Box<dyn AsyncWrite + Send>>,
    so_far: Vec<u8>,
}

/// Whether an address is that of a serial port: a path, or the name that a port has elsewhere.
#[must_use]
pub fn is_serial(address: &str) -> bool {
    let name = address.to_ascii_uppercase();
    address.starts_with('/') || (name.starts_with("COM") && name[3..].parse::<u8>().is_ok())
}

impl Wire {
    /// Connects; what went wrong, in words.
    ///
    /// # Errors
    /// Why it cannot be reached.
    pub async fn connect(address: &str, serial: &Serial) -> Result<Self, String> {
        if is_serial(address) {
            return Self::serial(address, serial);
        }
        let stream = match timeout(CONNECTS_WITHIN, TcpStream::connect(address)).await {
            Err(_) => return Err(format!("{address} does not answer")),
            Ok(Err(error)) if error.kind() == std::io::ErrorKind::ConnectionRefused => {
                return Err(format!("{address} refused the connection"));
            }
            Ok(Err(error)) => return Err(format!("{address}: {error}")),
            Ok(Ok(stream)) => stream,
        };
        // Small lines are to go at once; a system that cannot is slower, not wrong.
        let _ = stream.set_nodelay(true);
        let (read, write) = stream.into_split();
        Ok(Self::of(read, write))
    }

    fn of(read: impl AsyncRead + Send + 'static, write: impl AsyncWrite + Send + 'static) -> Self {
        Self { read: BufReader::new(Box::pin(read)), write: Box::pin(write), so_far: Vec::new() }
    }

    /// A serial port, whose own reads and writes block: a thread each way carries them.
    fn serial(path: &str, settings: &Serial) -> Result<Self, String> {
        let bits = if settings.data_bits == 7 { serialport::DataBits::Seven } else { serialport::DataBits::Eight };
        let stop = if settings.stop_bits == 2 { serialport::StopBits::Two } else { serialport::StopBits::One };
        let parity = match settings.parity {
            Parity::None => serialport::Parity::None,
            Parity::Even => serialport::Parity::Even,
            Parity::Odd => serialport::Parity::Odd,
        };
        let port = serialport::new(path, settings.baud).data_bits(bits).stop_bits(stop).parity(parity).timeout(SERIAL_TICK).open_native();
        let mut port = port.map_err(|error| format!("{path}: {}", error.to_string().trim_end_matches('.')))?;
        // The watchdog of a run opens it beside this one.
        #[cfg(unix)]
        let _ = port.set_exclusive(false);
        // Meters that feed their interface from these lines want them up; some ports have none.
        let _ = serialport::SerialPort::write_data_terminal_ready(&mut port, true);
        let _ = serialport::SerialPort::write_request_to_send(&mut port, true);
        let mut other = serialport::SerialPort::try_clone(&port).map_err(|error| format!("{path}: {error}"))?;
        let (ours, theirs) = tokio::io::duplex(16 * 1024);
        let (mut from_us, mut to_us) = tokio::io::split(theirs);
        let runtime = tokio::runtime::Handle::current();
        let there = runtime.clone();
        std::thread::spawn(move || {
            let mut buffer = [0u8; 1_024];
            loop {
                match std::io::Read::read(&mut other, &mut buffer) {
                    Ok(0) => return,
                    Ok(count) => {
                        if there.block_on(to_us.write_all(&buffer[..count])).is_err() {
                            return;
                        }
                    }
                    // Nothing came: whether anybody still listens shows when something is written.
                    Err(error) if error.kind() == std::io::ErrorKind::TimedOut => {
                        if there.block_on(to_us.flush()).is_err() {
                            return;
                        }
                    }
                    Err(_) => return,
                }
            }
        });
        std::thread::spawn(move || {
            let mut buffer = [0u8; 1_024];
            while let Ok(count @ 1..) = runtime.block_on(from_us.read(&mut buffer)) {
                let written = std::io::Write::write_all(&mut port, &buffer[..count]).and_then(|()| std::io::Write::flush(&mut port));
                if written.is_err() {
                    return;
                }
            }
        });
        let (read, write) = tokio::io::split(ours);
        Ok(Self::of(read, write))
    }

    /// Sends a line with its end.
    ///
    /// # Errors
    /// [`LinkFault::HungUp`].
    pub async fn send(&mut self, line: &str, end: &str) -> Result<(), LinkFault> {
        self.write.write_all(format!("{line}{end}").as_bytes()).await.map_err(|_| LinkFault::HungUp)?;
        self.write.flush().await.map_err(|_| LinkFault::HungUp)
    }

    /// Sends lines, one after another.
    ///
    /// # Errors
    /// [`LinkFault::HungUp`].
    pub async fn send_all(&mut self, lines: &[String], end: &str) -> Result<(), LinkFault> {
        for line in lines {
            self.send(line, end).await?;
        }
        Ok(())
    }

    /// The next reply; what was read of it stays when this is broken off.
    ///
    /// # Errors
    /// [`LinkFault::HungUp`], [`LinkFault::TooLong`].
    pub async fn reply(&mut self) -> Result<Reply, LinkFault> {
        loop {
            if let Some(reply) = self.block()?.or_else(|| self.line()) {
                return Ok(reply);
            }
            if self.so_far.first() == Some(&b'#') && self.wanted().is_some() {
                let count = self.read.read_buf(&mut self.so_far).await.map_err(|_| LinkFault::HungUp)?;
                if count == 0 {
                    return Err(LinkFault::HungUp);
                }
                continue;
            }
            // A byte at a time until it is clear whether a block begins: its bytes may hold line ends.
            let begins = self.so_far.is_empty() || (self.so_far[0] == b'#' && self.so_far.len() < BLOCK_HEAD);
            let room = if begins { 1 } else { MOST_LINE.saturating_sub(self.so_far.len() as u64) };
            let count = (&mut self.read).take(room).read_until(b'\n', &mut self.so_far).await.map_err(|_| LinkFault::HungUp)?;
            if count == 0 {
                return Err(if self.so_far.len() as u64 >= MOST_LINE { LinkFault::TooLong } else { LinkFault::HungUp });
            }
        }
    }

    /// Bytes of a block with its head, once its head is there: `#`, how many digits, how many bytes.
    fn wanted(&self) -> Option<usize> {
        let head = self.so_far.as_slice();
        let digits = usize::from(head.get(1)?.checked_sub(b'0').filter(|digits| (1..=9).contains(digits))?);
        let length: usize = std::str::from_utf8(head.get(2..2 + digits)?).ok()?.parse().ok()?;
        (head[0] == b'#').then_some(2 + digits + length)
    }

    /// A line that is open already.
    fn line(&mut self) -> Option<Reply> {
        let end = self.so_far.iter().position(|byte| *byte == b'\n').filter(|_| self.wanted().is_none())?;
        let line: Vec<u8> = self.so_far.drain(..=end).collect();
        Some(Reply::Line(String::from_utf8_lossy(&line).trim_end().to_owned()))
    }

    fn block(&mut self) -> Result<Option<Reply>, LinkFault> {
        let Some(wanted) = self.wanted() else { return Ok(None) };
        if wanted > MOST_BLOCK {
            return Err(LinkFault::TooLong);
        }
        // The line end behind it belongs to it.
        if self.so_far.len() <= wanted {
            return Ok(None);
        }
        let head = 2 + usize::from(self.so_far[1] - b'0');
        let block = self.so_far[head..wanted].to_vec();
        let behind = self.so_far[wanted..].iter().position(|byte| *byte == b'\n').map_or(self.so_far.len(), |at| wanted + at + 1);
        self.so_far.drain(..behind);
        Ok(Some(Reply::Block(block)))
    }
}

/// Takes a level away, or switches a supply off, over a connection of its own: for a process that has no links.
///
/// # Errors
/// Why it is not known to be down.
pub async fn take_away(address: &str, profile: &Profile, role: Role) -> Result<(), LinkFault> {
    let proof = Proof::of(profile, role).ok_or(LinkFault::Form)?;
    let mut wire = Wire::connect(address, &profile.serial).await.map_err(LinkFault::NotConnected)?;
    wire.send_all(&proof.lines, &profile.line_end).await?;
    wire.send_all(&proof.queries, &profile.line_end).await?;
    let most = Duration::from_millis(profile.timeout_ms);
    let mut answers = Vec::new();
    while answers.len() < proof.queries.len() {
        match timeout(most, wire.reply()).await {
            Ok(reply) => answers.push(match reply? {
                Reply::Line(line) => line,
                Reply::Block(_) => return Err(LinkFault::Form),
            }),
            Err(_) => return Err(LinkFault::TimedOut(most)),
        }
    }
    proof.all(&answers)
}

/// The longest head of a block.
const BLOCK_HEAD: usize = 11;

#[cfg(test)]
mod tests {
    use super::*;

    async fn replies(bytes: &[u8], count: usize) -> Vec<Result<Reply, LinkFault>> {
        let (mut far, near) = tokio::io::duplex(1 << 20);
        let (read, write) = tokio::io::split(near);
        let mut wire = Wire::of(read, write);
        far.write_all(bytes).await.unwrap();
        drop(far);
        let mut found = Vec::new();
        for _ in 0..count {
            found.push(wire.reply().await);
        }
        found
    }

    #[tokio::test]
    async fn lines_and_blocks_one_behind_the_other() {
        let found = replies(b"14.38\r\n#15a\nb\nc\n1\n#\n#x\n", 5).await;
        let line = |text: &str| Ok(Reply::Line(text.into()));
        assert_eq!(found, [line("14.38"), Ok(Reply::Block(b"a\nb\nc".to_vec())), line("1"), line("#"), line("#x")]);
    }

    #[tokio::test]
    async fn what_ends_in_the_middle_is_no_reply() {
        assert_eq!(replies(b"14.", 1).await, [Err(LinkFault::HungUp)]);
        assert_eq!(replies(b"#210abc", 1).await, [Err(LinkFault::HungUp)]);
        assert_eq!(replies(&[b'A'; 70_000], 1).await, [Err(LinkFault::TooLong)]);
        assert_eq!(replies(b"#9999999999", 1).await, [Err(LinkFault::TooLong)]);
    }

    #[test]
    fn addresses_of_serial_ports() {
        assert!(is_serial("/dev/ttyUSB0") && is_serial("COM3") && !is_serial("127.0.0.1:5025") && !is_serial("comet:5025"));
    }
}
