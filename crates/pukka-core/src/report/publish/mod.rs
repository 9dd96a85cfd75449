//! What goes out in words: titles, a description, chapters, a pinned comment, subtitles.

mod moments;
mod subtitles;
mod text;

pub use moments::{Chapter, Clip, clips};
pub use subtitles::{srt, vtt};
pub use text::{Texts, caption, texts};

use crate::report::view::VerdictView;

/// Whether what goes out is the last word, in a sentence; nothing when it is.
#[must_use]
pub fn standing(view: &VerdictView, is_locked: bool) -> Option<String> {
    let open = view.checks.iter().filter(|check| !check.settled).count();
    if view.provisional {
        let why = if open > 0 { "readings are still in doubt" } else { "not every claim is tested" };
        return Some(format!("Provisional: {why}."));
    }
    (!is_locked).then(|| "Not locked: this verdict can still change.".to_owned())
}
