//! Session files in: what a file would do is said before it is done.

use axum::Json;
use axum::body::Body as Raw;
use axum::extract::State as Ask;
use axum::http::StatusCode;
use pukka_core::instruments::{Profile, Role};
use pukka_core::kernel::problem::Problem;
use pukka_core::record::session::Session;
use pukka_store::links::LinkRow;
use pukka_store::photos::{self, Photo};
use pukka_store::transfer::{self, Arrival};
use pukka_store::whole::{self, Part};
use pukka_store::{Author, Store, StoreError, benches, links, traces};
use serde::{Deserialize, Serialize};

use super::download::{Download, spool};
use super::path::Query;
use super::writing::Writing;
use super::{ApiError, State};
use crate::bundle::{self, Arriving, ArrivingTrace, Bundle, BundleError, LinkLine, MOST_BYTES};
use crate::photo::as_it_is_or_anew;
use crate::sheet::runs_as_formula;

/// Effect of a file on the shelf.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum What {
    /// Adds an amplifier.
    Added,
    /// Brings something to one that is there.
    Changed,
    /// There, just so.
    Same,
    /// Cannot be taken.
    Refused,
}

/// An amplifier of a file.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct ArrivalView {
    /// Make and model; its folder when the session cannot be read.
    pub name: String,
    /// Effect.
    pub what: What,
    /// Content, a line each.
    pub brings: Vec<String>,
    /// Problems, and where.
    pub problems: Vec<Problem>,
    /// Keys that this version does not know: kept, and not computed with.
    pub unknown: Vec<String>,
    /// Texts that a spreadsheet would run: kept as text, and made inert in CSV.
    pub inert: Vec<String>,
}

/// Effect of a file.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct ImportView {
    /// An entry an amplifier.
    pub entries: Vec<ArrivalView>,
    /// Files in it that mean nothing here, and are left out.
    pub not_known: Vec<String>,
    /// Bench profiles in it, a line each: added, or left as they are here.
    pub benches: Vec<String>,
    /// Links of instruments in it, a line each; set up only when asked for.
    pub links: Vec<String>,
    /// Parts beside the amplifiers that cannot be read, and what the file itself had to leave out.
    pub left_out: Vec<Problem>,
}

/// Entries that are left out.
#[derive(Debug, Deserialize, utoipa::IntoParams)]
#[into_params(parameter_in = Query)]
pub struct Skipping {
    /// Their places in the preview, set apart by commas.
    #[serde(default)]
    skip: String,
    /// Set its links of instruments up, too, where none is set up here: Pukka connects to their addresses by itself.
    #[serde(default)]
    links: bool,
}

/// Result of an import.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct ImportResult {
    /// Outcome of each entry that was taken, in the order of the preview.
    pub entries: Vec<ArrivalView>,
    /// Reason why the rest did not come in, when the import broke off: the same file again goes on from there.
    pub stopped: Option<String>,
    /// Photos that are no pictures, or cannot be read, and were left out.
    pub left_out: Vec<Problem>,
    /// The amplifier to go to when there is just one.
    pub amplifier_id: Option<String>,
}

impl From<BundleError> for ApiError {
    fn from(error: BundleError) -> Self {
        let (status, code) = match error {
            BundleError::OtherKind => (StatusCode::UNSUPPORTED_MEDIA_TYPE, "not-a-session-file"),
            BundleError::TooLarge { .. } | BundleError::TooMany(_) => (StatusCode::PAYLOAD_TOO_LARGE, "too-large"),
            BundleError::Damaged(_) | BundleError::Empty => (StatusCode::UNPROCESSABLE_ENTITY, "damaged-file"),
            BundleError::Climbs(_) | BundleError::Twice(_) => (StatusCode::UNPROCESSABLE_ENTITY, "names-that-climb"),
        };
        Self::new(status, code, error.to_string())
    }
}

async fn opened(state: &State, body: Raw) -> Result<(Bundle, Download), ApiError> {
    let file = spool(body, state.store.folder(), MOST_BYTES).await?;
    let opened = state.compute_long(move || bundle::open(file.path()).map(|bundle| (bundle, file))).await?;
    Ok(opened?)
}

/// Says what a session file, or a zip of a shelf, would do. Nothing is done.
#[utoipa::path(post, operation_id = "previewImport", path = "/imports/previews",
    request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 200, body = ImportView)))]
pub async fn preview(Ask(state): Ask<State>, body: Raw) -> Result<Json<ImportView>, ApiError> {
    let (mut bundle, file) = opened(&state, body).await?;
    let store = std::sync::Arc::clone(&state.store);
    let looked = state.compute_long(move || {
        let view = view(&store, &mut bundle);
        drop(file);
        view
    });
    Ok(Json(looked.await??))
}

fn view(store: &Store, bundle: &mut Bundle) -> Result<ImportView, ApiError> {
    let mut not_known = bundle.not_known.clone();
    let mut entries = Vec::with_capacity(bundle.len());
    for i in 0..bundle.len() {
        let one = bundle.amplifier(i)?;
        entries.push(store.read(|tx| entry(tx, &one))?);
        not_known.extend(one.not_known);
    }
    let (known_benches, known_links) = store.read(|tx| Ok((benches::list(tx)?, links::list(tx)?)))?;
    let bench = |profile: &pukka_core::record::bench::BenchProfile| {
        let said = match known_benches.iter().find(|row| row.profile.name == profile.name) {
            None => "is added",
            Some(row) if row.profile == *profile => "is here already",
            Some(_) => "is here with other contents, and stays as it is here",
        };
        format!("{} {said}", profile.name)
    };
    let link = |line: &LinkLine| {
        let word = Role::parse(&line.role).map_or_else(|| line.role.clone(), |role| role.words().to_owned());
        let known = known_links.iter().any(|row| row.role.word() == line.role);
        format!("{word} at {}{}", line.address, if known { ": one is set up here already, and stays" } else { "" })
    };
    Ok(ImportView {
        entries,
        not_known,
        benches: bundle.benches.iter().map(bench).collect(),
        links: bundle.links.iter().map(link).collect(),
        left_out: bundle.left_out.clone(),
    })
}

fn entry(tx: &pukka_store::Connection, one: &Arriving) -> Result<ArrivalView, StoreError> {
    let Ok(read) = &one.session else {
        let problems = one.session.as_ref().err().cloned().unwrap_or_default();
        return Ok(ArrivalView { problems, ..blank(&one.folder, What::Refused) });
    };
    let mut view = ArrivalView {
        unknown: read.unknown.clone(),
        inert: spreadsheet_texts(&read.session),
        problems: one.left_out.clone(),
        ..blank(&read.session.amplifier.name(), What::Added)
    };
    match transfer::arrival(tx, &read.session)? {
        Arrival::New { namesake } => {
            let some = |n: usize, what: &str| (n > 0).then(|| counted(n, what));
            let counts = [
                some(read.session.claims.len(), "claim"),
                some(read.session.runs.len(), "run"),
                some(one.photos.len(), "photo"),
                some(one.ramps.len(), "ramp"),
                some(one.traces.len(), "trace"),
                one.settled.as_ref().map(|_| "a settled verdict".to_owned()),
                read.session.same_amplifier_as.as_ref().map(|_| "another session of an amplifier that comes with it".to_owned()),
                namesake.then(|| "another of this name is on the shelf: it comes to stand beside it".to_owned()),
            ];
            view.brings = counts.into_iter().flatten().collect();
        }
        Arrival::Retest { .. } => {
            let runs = counted(read.session.runs.len(), "run");
            view.brings = vec![format!("another session of an amplifier that is here, with {runs}")];
        }
        Arrival::Same { .. } => view.what = What::Same,
        Arrival::Changed { merge, .. } if merge.refused.is_empty() => {
            view.what = What::Changed;
            view.brings = merge.says();
        }
        Arrival::Changed { merge, .. } => {
            view.what = What::Refused;
            view.problems.extend(merge.refused);
        }
    }
    Ok(view)
}

fn counted(n: usize, what: &str) -> String {
    format!("{n} {what}{}", if n == 1 { "" } else { "s" })
}

fn blank(name: &str, what: What) -> ArrivalView {
    ArrivalView { name: name.to_owned(), what, brings: Vec::new(), problems: Vec::new(), unknown: Vec::new(), inert: Vec::new() }
}

/// Texts that a spreadsheet would run as a formula.
fn spreadsheet_texts(session: &Session) -> Vec<String> {
    let mut places: Vec<String> = Vec::new();
    let mut look = |place: &str, text: Option<&str>| places.extend(text.filter(|text| runs_as_formula(text)).map(|_| place.to_owned()));
    let amplifier = &session.amplifier;
    look("amplifier.make", Some(&amplifier.make));
    look("amplifier.model", Some(&amplifier.model));
    for (i, run) in session.runs.iter().enumerate() {
        look(&format!("runs[{i}].note"), run.note.as_deref());
        look(&format!("runs[{i}].setting"), run.setting.as_deref());
    }
    places
}

/// Takes a session file, or a zip of a shelf, in. One undo takes it back; the same file twice is taken once. It is all or nothing an
/// amplifier: where it breaks off, what is in stays, and the same file again goes on.
#[utoipa::path(post, operation_id = "importFile", path = "/imports", params(Skipping),
    request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 200, body = ImportResult)))]
pub async fn import(
    Ask(state): Ask<State>,
    Query(skipping): Query<Skipping>,
    writing: Writing,
    body: Raw,
) -> Result<Json<ImportResult>, ApiError> {
    let skip: Vec<usize> = skipping.skip.split(',').filter_map(|place| place.trim().parse().ok()).collect();
    let (mut bundle, file) = opened(&state, body).await?;
    // No key: a file that comes twice changes nothing the second time.
    let author = Author { key: None, ..writing.author(b"") }.at_once();
    let under_way = state.importing.begin();
    let store = std::sync::Arc::clone(&state.store);
    let work = state.compute_long(move || {
        let mut taking = Taking { store: &store, author, ids: Vec::new(), entries: Vec::new(), left_out: bundle.left_out.clone() };
        let total = bundle.len();
        let broke = (|| {
            for i in (0..total).filter(|i| !skip.contains(i)) {
                let one = bundle.amplifier(i)?;
                under_way.is_at(i, total, one.session.as_ref().map_or(&one.folder, |file| &file.session.amplifier.model));
                taking.amplifier(&mut bundle, &one)?;
            }
            taking.beside(&bundle, skipping.links)
        })();
        drop(file);
        taking.result(total - skip.len().min(total), broke)
    });
    let (result, opened) = work.await??;
    for row in opened {
        state.driving.links.open(&row);
    }
    Ok(Json(result))
}

/// An import under way.
struct Taking<'a> {
    store: &'a Store,
    author: Author,
    ids: Vec<String>,
    entries: Vec<ArrivalView>,
    left_out: Vec<Problem>,
}

impl Taking<'_> {
    /// Takes an amplifier in, all of it or nothing: its photos are staged as files first, then one write keeps every row.
    fn amplifier(&mut self, bundle: &mut Bundle, one: &Arriving) -> Result<(), ApiError> {
        let view = self.store.read(|tx| entry(tx, one))?;
        let Some(incoming) = one.incoming().filter(|_| view.what != What::Refused) else { return Ok(()) };
        let mut staged = Vec::new();
        for photo in one.photos.iter().take(photos::MOST) {
            // One that is no picture is left out: the readings are what matters.
            let bytes = bundle.photo(photo)?;
            match as_it_is_or_anew(&bytes) {
                Ok(kept) => staged.push(Photo { words: photo.words.clone(), ..kept.keep(self.store)? }),
                Err(why) => self.left_out.push(Problem::new(format!("{}/{}", one.folder, photo.name()), why.to_string())),
            }
        }
        let recordings = self.recordings(bundle, one, &incoming.file)?;
        let by = self.author.clone();
        let id = self.store.write(move |tx| {
            let amplifier_id = transfer::take_in(tx, &by, &incoming)?;
            transfer::take_photos(tx, &by, &amplifier_id, staged)?;
            recordings.iter().try_for_each(|(sha256, bytes)| traces::keep_file(tx, &by, sha256, *bytes))?;
            Ok(amplifier_id)
        })?;
        self.ids.push(id);
        self.entries.push(view);
        Ok(())
    }

    /// Stages the captured waves that a session names. One that is no recording, or not the one it is named by, is left out.
    fn recordings(&mut self, bundle: &mut Bundle, one: &Arriving, session: &Session) -> Result<Vec<(String, u64)>, ApiError> {
        let mut staged = Vec::new();
        let named = |trace: &&ArrivingTrace| session.traces.iter().any(|own| own.sha256.eq_ignore_ascii_case(&trace.sha256));
        for trace in one.traces.iter().filter(named) {
            let part = Part::beside(&self.store.folder().join("trace"));
            let trouble = |why| StoreError::at(part.path(), why);
            let mut file = whole::new_file(part.path()).map_err(trouble)?;
            bundle.trace(trace, &mut file)?;
            let bytes = file.metadata().map_err(trouble)?.len();
            let mut left_out = |says: String| self.left_out.push(Problem::new(format!("{}/traces/{}", one.folder, trace.sha256), says));
            if let Err(why) = pukka_capture::open(part.path()) {
                left_out(why.to_string());
                continue;
            }
            if self.store.files().keep_named_trace(part, &trace.sha256)? {
                staged.push((trace.sha256.clone(), bytes));
            } else {
                left_out("It is not the recording that it is named by.".into());
            }
        }
        Ok(staged)
    }

    /// Adds bench profiles that are not here by their names and, when asked, links of tasks that have none. Gives the links.
    fn beside(&mut self, bundle: &Bundle, with_links: bool) -> Result<Vec<LinkRow>, ApiError> {
        let (benches, lines) = (bundle.benches.clone(), if with_links { bundle.links.clone() } else { Vec::new() });
        let (rows, refused): (Vec<_>, Vec<_>) = lines.iter().map(link_row).partition(Result::is_ok);
        let rows: Vec<LinkRow> = rows.into_iter().flatten().collect();
        self.left_out.extend(refused.into_iter().filter_map(Result::err));
        let (sound, odd): (Vec<_>, Vec<_>) = benches.into_iter().partition(|profile| profile.check().is_empty());
        self.left_out.extend(odd.into_iter().map(|profile| {
            let problem = profile.check().swap_remove(0);
            Problem::new(format!("benches.json: {}: {}", profile.name, problem.path), problem.says)
        }));
        let by = self.author.clone();
        let made = self.store.write(move |tx| {
            let known = benches::list(tx)?;
            for profile in sound.iter().filter(|profile| known.iter().all(|row| row.profile.name != profile.name)) {
                benches::create(tx, &by, profile)?;
            }
            let set = links::list(tx)?;
            let new: Vec<LinkRow> = rows.into_iter().filter(|row| set.iter().all(|known| known.role != row.role)).collect();
            new.iter().try_for_each(|row| links::save(tx, &by, row))?;
            Ok(new)
        })?;
        Ok(made)
    }

    fn result(mut self, total: usize, broke: Result<Vec<LinkRow>, ApiError>) -> Result<(ImportResult, Vec<LinkRow>), ApiError> {
        let (links, stopped) = match broke {
            Ok(links) => (links, None),
            // Nothing came in: a refusal as any other.
            Err(error) if self.entries.is_empty() => return Err(error),
            Err(error) => {
                let done = self.entries.len();
                (
                    Vec::new(),
                    Some(format!("{done} of {total} came in, then it broke off. {} Import the same file again to go on.", error.says())),
                )
            }
        };
        let amplifier_id = self.ids.pop().filter(|_| self.ids.is_empty());
        Ok((ImportResult { entries: self.entries, amplifier_id, stopped, left_out: self.left_out }, links))
    }
}

fn link_row(line: &LinkLine) -> Result<LinkRow, Problem> {
    let wrong = |says: &str| Problem::new(format!("instruments.json: {}", line.role), says);
    let role = Role::parse(&line.role).ok_or_else(|| wrong("There is no such task."))?;
    if !super::instruments::is_address(&line.address) {
        return Err(wrong("The address is no host and port, and no serial port."));
    }
    Profile::read(&line.profile, role).map_err(|found| wrong(&found.first().map_or(String::new(), |problem| problem.says.clone())))?;
    Ok(LinkRow { role, address: line.address.clone(), profile: line.profile.clone(), meter: line.meter.clone() })
}
