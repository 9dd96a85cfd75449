//! What is done to several amplifiers at once: put away, taken out, tagged. One undo takes all of it back.

use axum::Json;
use axum::extract::State as Ask;
use pukka_core::kernel::problem::Problem;
use pukka_core::record::amplifier::{Amplifier, MOST_TAGS, check_tag};
use pukka_store::{Author, WriteTx, amplifiers};
use serde::{Deserialize, Serialize};

use super::body::{Body, sound};
use super::writing::Writing;
use super::{ApiError, State};

/// What to do, and to which amplifiers.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Marking {
    /// Ids of the amplifiers.
    pub ids: Vec<String>,
    /// Whether they are put away; as they are when left out.
    #[serde(default)]
    pub archived: Option<bool>,
    /// Tag that each of them gets.
    #[serde(default)]
    pub tag: Option<String>,
    /// Tag that is taken off each of them.
    #[serde(default)]
    pub untag: Option<String>,
}

/// Number of amplifiers that were changed: those that were so already do not count.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Marked {
    /// Amplifiers.
    pub changed: usize,
}

const MOST_AT_ONCE: usize = 1_000;

impl Marking {
    fn check(&self) -> Vec<Problem> {
        let mut problems = Vec::new();
        if self.ids.is_empty() || self.ids.len() > MOST_AT_ONCE {
            problems.push(Problem::new("ids", format!("Between 1 and {MOST_AT_ONCE} amplifiers, not {}.", self.ids.len())));
        }
        for (path, tag) in [("tag", &self.tag), ("untag", &self.untag)] {
            if let Some(tag) = tag {
                check_tag(&mut problems, path, tag);
            }
        }
        if self.archived.is_none() && self.tag.is_none() && self.untag.is_none() {
            problems.push(Problem::new("", "Nothing is to be done."));
        }
        problems
    }

    fn do_to(&self, amplifier: &mut Amplifier) {
        if let Some(archived) = self.archived {
            amplifier.archived = archived;
        }
        let is = |wanted: &Option<String>, tag: &str| wanted.as_deref().is_some_and(|wanted| wanted.trim() == tag);
        amplifier.tags.retain(|tag| !is(&self.untag, tag));
        if let Some(tag) = &self.tag
            && !amplifier.tags.iter().any(|own| is(&self.tag, own))
        {
            amplifier.tags.push(tag.trim().to_owned());
        }
    }
}

/// Whether an amplifier can have this tag as well.
fn has_room(amplifier: &Amplifier, tag: Option<&str>) -> bool {
    amplifier.tags.len() < MOST_TAGS || tag.is_none_or(|tag| amplifier.tags.iter().any(|own| own == tag.trim()))
}

/// Puts several amplifiers away or takes them out, or tags them, at once. All of it is done, or nothing.
#[utoipa::path(post, operation_id = "markAmplifiers", path = "/markings", request_body = Marking, responses((status = 200, body = Marked)))]
pub async fn mark(Ask(state): Ask<State>, writing: Writing, body: Body<Marking>) -> Result<Json<Marked>, ApiError> {
    sound(body.value.check())?;
    let author = writing.author(&body.raw);
    let marking = body.value;
    let (ids, tag) = (marking.ids.clone(), marking.tag.clone());
    let find = move |store: &pukka_store::Store| {
        store.read(|tx| {
            let all = ids.iter().map(|id| Ok(amplifiers::get(tx, id)?.amplifier)).collect::<Result<Vec<_>, pukka_store::StoreError>>()?;
            Ok(all.into_iter().filter(|one| !has_room(one, tag.as_deref())).map(|one| one.name()).collect::<Vec<_>>())
        })
    };
    let too_many = state.records(find).await?;
    let full = (!too_many.is_empty()).then(|| Problem::new("tag", format!("No room for another tag: {}.", too_many.join(", "))));
    sound(full.into_iter().collect())?;
    let work = move |tx: &WriteTx, author: &Author| amplifiers::change_each(tx, author, &marking.ids, |amplifier| marking.do_to(amplifier));
    Ok(Json(Marked { changed: state.once(author, work).await? }))
}
