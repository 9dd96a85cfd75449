//! Now, as told by the system or stopped for a picture.

/// Source of the time.
#[derive(Debug, Clone, Copy)]
pub enum Clock {
    /// The system's clock.
    System,
    /// Always this moment.
    Stopped(jiff::Timestamp),
}

impl Clock {
    /// Now.
    #[must_use]
    pub fn now(self) -> jiff::Timestamp {
        match self {
            Self::System => jiff::Timestamp::now(),
            Self::Stopped(at) => at,
        }
    }
}
