//! How far an import is: asked again and again while it goes on.

use std::sync::{Arc, Mutex, PoisonError};

use axum::Json;
use axum::extract::State as Ask;
use serde::{Deserialize, Serialize};

use super::State;

/// Progress of an import.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct ImportProgress {
    /// Amplifiers that are through.
    pub done: usize,
    /// Amplifiers in the file.
    pub total: usize,
    /// The one at hand.
    pub name: String,
}

/// The import there is.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct ImportingView {
    /// Nothing when none is under way.
    pub importing: Option<ImportProgress>,
}

/// Place where an import says how far it is; of several at once the last that said so is shown.
#[derive(Debug, Clone, Default)]
pub struct Importing(Arc<Mutex<Option<ImportProgress>>>);

impl Importing {
    fn set(&self, progress: Option<ImportProgress>) {
        *self.0.lock().unwrap_or_else(PoisonError::into_inner) = progress;
    }

    /// Begins one: it is over when what this gives is dropped, however it ends.
    pub(super) fn begin(&self) -> UnderWay {
        UnderWay(self.clone())
    }
}

/// An import under way.
pub(super) struct UnderWay(Importing);

impl UnderWay {
    pub(super) fn is_at(&self, done: usize, total: usize, name: &str) {
        self.0.set(Some(ImportProgress { done, total, name: name.to_owned() }));
    }
}

impl Drop for UnderWay {
    fn drop(&mut self) {
        self.0.set(None);
    }
}

/// Progress of the import that goes on now.
#[utoipa::path(get, operation_id = "getImporting", path = "/imports/progress", responses((status = 200, body = ImportingView)))]
pub async fn progress(Ask(state): Ask<State>) -> Json<ImportingView> {
    let importing = state.importing.0.lock().unwrap_or_else(PoisonError::into_inner).clone();
    Json(ImportingView { importing })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn it_is_over_however_it_ends() {
        let importing = Importing::default();
        let said = || importing.0.lock().unwrap().clone();
        let under_way = importing.begin();
        assert_eq!(said(), None);
        under_way.is_at(3, 20, "Quillmoor Mono 300");
        assert_eq!(said(), Some(ImportProgress { done: 3, total: 20, name: "Quillmoor Mono 300".into() }));
        drop(under_way);
        assert_eq!(said(), None);
    }
}
