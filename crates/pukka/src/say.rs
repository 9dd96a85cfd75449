//! Lines on standard output.

use std::fmt;
use std::io::{ErrorKind, Write, stdout};

/// Says a line on standard output, as `println!` does. Who has read enough of it, as `head` has, stops nothing.
#[macro_export]
macro_rules! say {
    ($($line:tt)*) => { $crate::say::line(::core::format_args!($($line)*)) };
}

/// Writes a line to standard output; ends the program with 1 where it cannot be written, as on a full disk.
pub fn line(line: fmt::Arguments<'_>) {
    let mut out = stdout().lock();
    match writeln!(out, "{line}").and_then(|()| out.flush()) {
        Err(why) if why.kind() != ErrorKind::BrokenPipe => {
            eprintln!("standard output cannot be written: {why}");
            std::process::exit(1);
        }
        _ => {}
    }
}
