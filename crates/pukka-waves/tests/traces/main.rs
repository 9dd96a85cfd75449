//! What captured waves say, held against closed forms.

#![allow(clippy::unwrap_used, reason = "a test that cannot set itself up has failed")]

mod stretches;
mod together;
mod tones;
mod wave;
