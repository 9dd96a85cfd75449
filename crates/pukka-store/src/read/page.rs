//! Where a page of a long list begins.

/// The last row of the page before: when it was, and its id.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct After {
    /// Time when, as it is kept.
    pub at: String,
    /// Id of the record.
    pub id: String,
}

/// Sorts after every moment there is.
pub(super) const LAST: &str = "~";
