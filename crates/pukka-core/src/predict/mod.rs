//! What a run will ask of the bench, from what is known: load line, losses, supply.

pub mod draw;
pub mod known;
pub mod model;
pub mod prediction;
