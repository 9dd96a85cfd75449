//! The program: command line, HTTP, and the embedded front end.
//!
//! [`serve::launch`] is the whole server as a function of its settings and a listener; [`http`] lists every route; [`draw`]
//! makes the charts; [`instruments`] are links to SCPI instruments, [`live`] drives runs over them; [`demo`] is the Ferry Lane bench. A handler extracts, calls the core or the store, and maps.

pub mod assets;
pub mod cli;
pub mod clock;
pub mod demo;
pub mod draw;
pub mod http;
pub mod instruments;
pub mod live;
pub mod photo;
pub mod serve;
pub mod stand_in;
