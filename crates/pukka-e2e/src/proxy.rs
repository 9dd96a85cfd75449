//! A bad line between page and program: answers that are lost on the way, and answers that are not what they should be.

use std::io::{BufRead, BufReader, Read, Write};
use std::net::{SocketAddr, TcpListener, TcpStream};
use std::sync::{Arc, Mutex, PoisonError};

use anyhow::Context;

/// Fault of a request.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Fault {
    /// Never gets to the program.
    LostRequest,
    /// The program does it, and its answer never comes.
    LostAnswer,
    /// The page gets `{}` for an answer.
    Nonsense,
}

type Rules = Arc<Mutex<Vec<(String, Fault)>>>;

/// A proxy on a loopback port, until the test ends.
#[derive(Debug)]
pub struct Proxy {
    /// Address that the page opens.
    pub url: String,
    rules: Rules,
}

impl Proxy {
    /// Stands in front of a program at `url`.
    ///
    /// # Errors
    /// When no port can be had.
    pub fn before(url: &str) -> anyhow::Result<Self> {
        let to: SocketAddr = url.strip_prefix("http://").context("no address")?.parse()?;
        let listener = TcpListener::bind("127.0.0.1:0")?;
        let proxy = Self { url: format!("http://{}", listener.local_addr()?), rules: Rules::default() };
        let rules = Arc::clone(&proxy.rules);
        std::thread::spawn(move || {
            for client in listener.incoming().flatten() {
                let rules = Arc::clone(&rules);
                // A connection that breaks is what this is for.
                std::thread::spawn(move || carry(client, to, &rules));
            }
        });
        Ok(proxy)
    }

    /// From here on, every request whose first line contains `request` goes wrong.
    pub fn goes_wrong(&self, request: &str, fault: Fault) {
        self.rules.lock().unwrap_or_else(PoisonError::into_inner).push((request.to_owned(), fault));
    }

    /// Nothing goes wrong any more.
    pub fn goes_right(&self) {
        self.rules.lock().unwrap_or_else(PoisonError::into_inner).clear();
    }
}

/// Carries one request and its answer: the connection is closed behind it.
fn carry(mut client: TcpStream, to: SocketAddr, rules: &Rules) -> std::io::Result<()> {
    let mut from = BufReader::new(client.try_clone()?);
    let mut head = String::new();
    let mut length = 0;
    loop {
        let mut line = String::new();
        if from.read_line(&mut line)? == 0 {
            return Ok(());
        }
        let lower = line.to_ascii_lowercase();
        if let Some(count) = lower.strip_prefix("content-length:") {
            length = count.trim().parse().unwrap_or(0);
        }
        if line == "\r\n" {
            break;
        }
        if !lower.starts_with("connection:") && !lower.starts_with("accept-encoding:") {
            head.push_str(&line);
        }
    }
    let mut body = vec![0; length];
    from.read_exact(&mut body)?;
    let first = head.lines().next().unwrap_or_default().to_owned();
    let fault = rules.lock().unwrap_or_else(PoisonError::into_inner).iter().find(|(part, _)| first.contains(part)).map(|(_, fault)| *fault);
    match fault {
        Some(Fault::LostRequest) => return Ok(()),
        Some(Fault::Nonsense) => {
            return client
                .write_all(b"HTTP/1.1 200 OK\r\ncontent-type: application/json\r\ncontent-length: 2\r\nconnection: close\r\n\r\n{}");
        }
        Some(Fault::LostAnswer) | None => {}
    }
    let mut program = TcpStream::connect(to)?;
    program.write_all(format!("{head}Connection: close\r\n\r\n").as_bytes())?;
    program.write_all(&body)?;
    if fault == Some(Fault::LostAnswer) {
        // Done by the program before the page hears that the line is gone.
        std::io::copy(&mut program, &mut std::io::sink())?;
        return Ok(());
    }
    std::io::copy(&mut program, &mut client)?;
    Ok(())
}
