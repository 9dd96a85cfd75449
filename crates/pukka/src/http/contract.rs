//! What every operation asks for and may answer, in one table: the right it needs, the headers it reads, its refusals.
//!
//! The handlers describe what they give; this completes the description with what holds for all of a kind, so that no status
//! occurs which the document does not name.

use serde_json::json;
use utoipa::openapi::content::ContentBuilder;
use utoipa::openapi::extensions::ExtensionsBuilder;
use utoipa::openapi::header::HeaderBuilder;
use utoipa::openapi::path::{Operation, ParameterBuilder, ParameterIn, PathItem};
use utoipa::openapi::request_body::RequestBodyBuilder;
use utoipa::openapi::response::ResponseBuilder;
use utoipa::openapi::schema::{ObjectBuilder, OneOfBuilder, Schema, Type};
use utoipa::openapi::{OpenApi, Ref, RefOr, Required};

use super::writing::MOST_CHARS;

/// Permission needed by whoever sends a request. One principal has all three today; paired devices will have some.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Right {
    /// To see the records.
    Look,
    /// To change the records.
    Log,
    /// To move the bench: instruments, a level, an armed run.
    Drive,
}

impl Right {
    /// Word in the document.
    #[must_use]
    pub const fn word(self) -> &'static str {
        match self {
            Self::Look => "look",
            Self::Log => "log",
            Self::Drive => "drive",
        }
    }
}

/// Way in which an operation writes.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Writes {
    /// Not at all: a question, even where it is posted because it is long.
    Nothing,
    /// Something that is not in the records.
    Outside,
    /// The records, once for each idempotency key.
    Records,
    /// Likewise, a record of the revision that If-Match names.
    Revision,
}

use Right::{Drive, Log, Look};
use Writes::{Nothing, Outside, Records, Revision};

/// Every operation by its id.
const OPERATIONS: &[(&str, Right, Writes)] = &[
    ("getAbout", Look, Nothing),
    ("getPublication", Look, Nothing),
    ("getCard", Look, Nothing),
    ("getPublicationFile", Look, Nothing),
    ("getSite", Look, Nothing),
    ("getUpkeep", Look, Nothing),
    ("setUpkeep", Log, Outside),
    ("copyNow", Log, Outside),
    ("getBackup", Look, Nothing),
    ("listAmplifiers", Look, Nothing),
    ("createAmplifier", Log, Records),
    ("getAmplifier", Look, Nothing),
    ("updateAmplifier", Log, Revision),
    ("patchAmplifier", Log, Revision),
    ("deleteAmplifier", Log, Revision),
    ("listSessions", Look, Nothing),
    ("openRetest", Log, Records),
    ("takeInHand", Log, Records),
    ("getChanges", Look, Nothing),
    ("createClaim", Log, Records),
    ("updateClaim", Log, Revision),
    ("patchClaim", Log, Revision),
    ("deleteClaim", Log, Revision),
    ("useClaim", Log, Records),
    ("senseCheck", Look, Nothing),
    ("readSpecTable", Look, Nothing),
    ("addClaims", Log, Records),
    ("getLadder", Look, Nothing),
    ("saveRung", Log, Revision),
    ("changeSession", Log, Revision),
    ("patchSession", Log, Revision),
    ("tickCaution", Log, Records),
    ("getSessionRecord", Look, Nothing),
    ("patchSessionRecord", Log, Revision),
    ("clap", Log, Records),
    ("sealGuesses", Log, Records),
    ("openGuesses", Log, Records),
    ("openGates", Log, Records),
    ("withdrawGates", Log, Records),
    ("armRun", Drive, Records),
    ("disarm", Drive, Records),
    ("listBenches", Look, Nothing),
    ("createBench", Log, Records),
    ("updateBench", Log, Revision),
    ("patchBench", Log, Revision),
    ("deleteBench", Log, Revision),
    ("findLoads", Look, Nothing),
    ("tryLoads", Look, Nothing),
    ("listPhotos", Look, Nothing),
    ("addPhoto", Log, Records),
    ("getPhoto", Look, Nothing),
    ("describePhoto", Log, Revision),
    ("getComparison", Look, Nothing),
    ("getComparisonCard", Look, Nothing),
    ("getLessons", Look, Nothing),
    ("getData", Look, Nothing),
    ("getWorth", Look, Nothing),
    ("getMoney", Look, Nothing),
    ("setMoney", Log, Revision),
    ("listTraces", Look, Nothing),
    ("addTrace", Log, Outside),
    ("getTraceProgress", Look, Nothing),
    ("getTrace", Look, Nothing),
    ("describeTrace", Log, Records),
    ("removeTrace", Log, Records),
    ("getTraceWave", Look, Nothing),
    ("getTraceSamples", Look, Nothing),
    ("lookAtStretch", Look, Nothing),
    ("findScale", Look, Nothing),
    ("previewCaptured", Look, Nothing),
    ("logCaptured", Log, Records),
    ("getTracePicture", Look, Nothing),
    ("listViews", Look, Nothing),
    ("saveView", Log, Records),
    ("deleteView", Log, Records),
    ("markAmplifiers", Log, Records),
    ("getSignature", Look, Nothing),
    ("nameSignature", Log, Revision),
    ("getMark", Look, Nothing),
    ("setMark", Log, Revision),
    ("deleteMark", Log, Revision),
    ("deletePhoto", Log, Revision),
    ("leadCosts", Look, Nothing),
    ("extraDrive", Look, Nothing),
    ("previewRun", Look, Nothing),
    ("logRun", Log, Records),
    ("getRun", Look, Nothing),
    ("takeBackRun", Log, Records),
    ("correctRun", Log, Records),
    ("remarkOnRun", Log, Records),
    ("runHistory", Look, Nothing),
    ("strikeMeter", Log, Records),
    ("finishSteps", Log, Records),
    ("getRest", Look, Nothing),
    ("logIncident", Log, Records),
    ("listIncidents", Look, Nothing),
    ("getTone", Look, Nothing),
    ("listInstruments", Look, Nothing),
    ("setInstrument", Drive, Records),
    ("removeInstrument", Drive, Records),
    ("tryInstrument", Drive, Outside),
    ("startLive", Drive, Outside),
    ("stopLive", Drive, Outside),
    ("cutSupply", Drive, Outside),
    ("getLive", Look, Nothing),
    ("liveEvents", Look, Nothing),
    ("getRamp", Look, Nothing),
    ("getStandIn", Look, Nothing),
    ("getStandInRecording", Look, Nothing),
    ("changeStandIn", Drive, Outside),
    ("getVerdict", Look, Nothing),
    ("settleVerdict", Log, Records),
    ("getSuspicion", Look, Nothing),
    ("getSheet", Look, Nothing),
    ("getSheetPage", Look, Nothing),
    ("getSheetCsv", Look, Nothing),
    ("getSessionFile", Look, Nothing),
    ("getShelfFile", Look, Nothing),
    ("previewImport", Look, Nothing),
    ("importFile", Log, Outside),
    ("getImporting", Look, Nothing),
    ("getActs", Look, Nothing),
    ("undo", Log, Records),
    ("redo", Log, Records),
    ("settleWrite", Log, Outside),
];

/// Refusals by status, and what each says of itself.
const REFUSALS: [(u16, &str); 10] = [
    (400, "A header, a query or the path cannot be read."),
    (403, "Asked by another name than the program's own, or written from another page."),
    (404, "There is no such thing."),
    (409, "It cannot be done as things stand."),
    (412, "It was changed elsewhere since."),
    (413, "The body is too large."),
    (415, "The body is of another kind."),
    (422, "Fields cannot be so."),
    (428, "If-Match has to name the revision that was changed."),
    (507, "The disk is full; nothing was kept."),
];

/// Operations that change a part of a record, and of which.
const PATCHES: [(&str, &str); 5] = [
    ("patchAmplifier", "Amplifier"),
    ("patchClaim", "Claim"),
    ("patchBench", "BenchProfile"),
    ("patchSession", "SessionSettings"),
    ("patchSessionRecord", "SessionRecord"),
];

/// A list of ids in a query: one of them may name nothing.
const IDS: &str = "ids";

/// Completes the description.
pub fn complete(document: &mut OpenApi) {
    if let Some(components) = &mut document.components {
        components.responses.extend(REFUSALS.map(|(status, says)| (refused(status), refusal(says))));
        for (_, record) in PATCHES {
            if let Some(partial) = components.schemas.get(record).and_then(partial) {
                components.schemas.insert(format!("{record}Patch"), partial);
            }
        }
    }
    for (path, item) in &mut document.paths.paths {
        for operation in operations(item) {
            let id = operation.operation_id.clone().unwrap_or_default();
            if let Some((_, right, writes)) = OPERATIONS.iter().find(|(known, ..)| *known == id) {
                describe(operation, path, *right, *writes);
            }
        }
    }
}

/// The schema of a merge patch: every field may be left out, or be `null` to be taken away.
fn partial(record: &RefOr<Schema>) -> Option<RefOr<Schema>> {
    let RefOr::T(Schema::Object(record)) = record else { return None };
    let mut patch = record.clone();
    patch.required.clear();
    patch.description = record.description.as_ref().map(|says| format!("A change of it in part: null takes a field away. {says}"));
    for field in patch.properties.values_mut() {
        let null = ObjectBuilder::new().schema_type(Type::Null).build();
        let either = OneOfBuilder::new().item(null).item(field.clone()).build();
        *field = Schema::OneOf(either).into();
    }
    Some(Schema::Object(patch).into())
}

fn operations(item: &mut PathItem) -> impl Iterator<Item = &mut Operation> {
    [&mut item.get, &mut item.post, &mut item.put, &mut item.patch, &mut item.delete].into_iter().flatten()
}

fn describe(operation: &mut Operation, path: &str, right: Right, writes: Writes) {
    let in_path = path.contains('{');
    let body = operation.request_body.is_some() || PATCHES.iter().any(|(id, _)| operation.operation_id.as_deref() == Some(id));
    let reads_headers = writes != Nothing || operation.operation_id.as_deref() == Some("getActs");
    let asked = operation.parameters.iter().flatten().filter_map(|one| if let RefOr::T(one) = one { Some(one) } else { None });
    let asked: Vec<&str> = asked.filter(|one| one.parameter_in == ParameterIn::Query).map(|one| one.name.as_str()).collect();
    let (in_query, names_records) = (!asked.is_empty(), in_path || asked.contains(&IDS));
    let mut statuses = vec![403];
    statuses.extend((in_path || in_query || reads_headers).then_some(400));
    statuses.extend(names_records.then_some(404));
    statuses.extend(in_query.then_some(422));
    if body {
        statuses.extend([413, 415, 422]);
    }
    match writes {
        Nothing => {}
        Outside => statuses.extend([409, 422]),
        Records => statuses.extend([409, 422, 507]),
        Revision => statuses.extend([409, 412, 422, 428, 507]),
    }
    for (status, _) in REFUSALS.iter().filter(|(status, _)| statuses.contains(status)) {
        operation.responses.responses.entry(status.to_string()).or_insert_with(|| Ref::from_response_name(refused(*status)).into());
    }
    let parameters = operation.parameters.get_or_insert_default();
    if reads_headers {
        parameters.push(header("X-Pukka-Tab", "The browser tab: undo belongs to it.", false).into());
    }
    if matches!(writes, Records | Revision) {
        parameters.push(header("Idempotency-Key", "The same request under the same key is done once. Kept for 30 days.", false).into());
    }
    if writes == Revision {
        parameters.push(header("If-Match", "The revision that was changed, in double quotes.", true).into());
    }
    if let Some(RefOr::T(created)) = operation.responses.responses.get_mut("201") {
        let address = HeaderBuilder::new().description(Some("Where it is.")).build();
        created.headers.insert("Location".into(), address.into());
    }
    if let Some((_, record)) = PATCHES.iter().find(|(id, _)| operation.operation_id.as_deref() == Some(id)) {
        let content = ContentBuilder::new().schema(Some(Ref::from_schema_name(format!("{record}Patch")))).build();
        let kind = "application/merge-patch+json";
        operation.request_body = Some(RequestBodyBuilder::new().content(kind, content).required(Some(Required::True)).build().into());
    }
    operation.extensions = Some(ExtensionsBuilder::new().add("x-right", json!(right.word())).build());
}

/// Name of a refusal in the document.
fn refused(status: u16) -> String {
    format!("Refused{status}")
}

fn refusal(says: &str) -> RefOr<utoipa::openapi::Response> {
    let content = ContentBuilder::new().schema(Some(Ref::from_schema_name("ProblemBody"))).build();
    ResponseBuilder::new().description(says).content("application/problem+json", content).build().into()
}

fn header(name: &str, says: &str, required: bool) -> utoipa::openapi::path::Parameter {
    let text = ObjectBuilder::new().schema_type(Type::String).min_length(Some(1)).max_length(Some(MOST_CHARS)).build();
    ParameterBuilder::new()
        .name(name)
        .parameter_in(ParameterIn::Header)
        .required(if required { Required::True } else { Required::False })
        .description(Some(says))
        .schema(Some(text))
        .build()
}

#[cfg(test)]
mod tests {
    use std::collections::BTreeSet;

    use super::*;

    #[test]
    fn every_operation_has_one_row_and_every_row_an_operation() {
        let mut document = super::super::openapi();
        let described: BTreeSet<String> =
            document.paths.paths.values_mut().flat_map(operations).filter_map(|operation| operation.operation_id.clone()).collect();
        let listed: BTreeSet<String> = OPERATIONS.iter().map(|(id, ..)| (*id).to_owned()).collect();
        assert_eq!(described, listed);
        assert_eq!(listed.len(), OPERATIONS.len(), "none twice");
    }

    #[test]
    fn what_may_name_nothing_says_so_and_every_change_in_part_has_a_schema() {
        let mut document = super::super::openapi();
        for item in document.paths.paths.values_mut() {
            if let Some(patch) = &item.patch {
                let id = patch.operation_id.as_deref().unwrap_or_default();
                assert!(patch.request_body.is_some() && patch.responses.responses.contains_key("415"), "{id}");
            }
            for operation in operations(item) {
                let of_ids = |one: &RefOr<utoipa::openapi::path::Parameter>| matches!(one, RefOr::T(one) if one.name == IDS);
                let id = operation.operation_id.as_deref().unwrap_or_default();
                if operation.parameters.iter().flatten().any(of_ids) || id == "getMark" {
                    assert!(operation.responses.responses.contains_key("404"), "{id}");
                }
            }
        }
    }

    #[test]
    fn whoever_may_only_look_changes_nothing() {
        let looks = OPERATIONS.iter().filter(|(_, right, _)| *right == Look);
        assert!(looks.clone().all(|(_, _, writes)| *writes == Nothing));
        let mut document = super::super::openapi();
        for (path, item) in &mut document.paths.paths {
            // What is posted because it is long changes nothing; all else that is no GET needs more.
            let long = ["sense-checks", "spec-tables", "loads", "previews", "stretches", "scales"].iter().any(|end| path.ends_with(end));
            let get = item.get.as_ref().and_then(|operation| operation.operation_id.clone());
            for operation in operations(item).filter(|operation| operation.operation_id != get) {
                let id = operation.operation_id.clone().unwrap_or_default();
                let right = OPERATIONS.iter().find(|(known, ..)| *known == id).map(|(_, right, _)| *right);
                assert_eq!(right == Some(Look), long, "{id}");
            }
        }
    }
}
