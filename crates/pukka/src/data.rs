//! The shelf as data: tables as CSV with what each column means, so that R, Python and spreadsheets read them.
//!
//! Ref: Data Package and Table Schema, version 1 (specs.frictionlessdata.io); RFC 4180.

use pukka_core::report::summary::Summary;
use serde_json::{Value, json};

use crate::sheet::{RUN_COLUMNS, inert, round9};

/// Kind of what stands in a column.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Kind {
    /// Words.
    Text,
    /// A number, its point a point.
    Number,
    /// A whole number.
    Integer,
    /// A moment. RFC 3339.
    DateTime,
    /// A day. ISO 8601.
    Date,
    /// "yes" or "no".
    YesNo,
}

/// A column.
#[derive(Debug, Clone, Copy)]
pub struct Column {
    /// Name with its unit, as the first line of the file has it.
    pub name: &'static str,
    kind: Kind,
    says: &'static str,
}

impl Column {
    /// A column by its name, its kind and its meaning.
    #[must_use]
    pub const fn new(name: &'static str, kind: Kind, says: &'static str) -> Self {
        Self { name, kind, says }
    }

    fn field(&self) -> Value {
        let mut field = json!({ "name": self.name, "description": self.says });
        let more = match self.kind {
            Kind::Text => json!({ "type": "string" }),
            Kind::Number => json!({ "type": "number" }),
            Kind::Integer => json!({ "type": "integer" }),
            Kind::DateTime => json!({ "type": "datetime" }),
            Kind::Date => json!({ "type": "date" }),
            Kind::YesNo => json!({ "type": "boolean", "trueValues": ["yes"], "falseValues": ["no"] }),
        };
        if let (Some(field), Value::Object(more)) = (field.as_object_mut(), more) {
            field.extend(more);
        }
        field
    }
}

/// A table of a package.
#[derive(Debug, Clone, Copy)]
pub struct Table {
    name: &'static str,
    title: &'static str,
    path: &'static str,
    columns: &'static [Column],
}

/// The table of runs, one row a run.
#[must_use]
pub const fn runs(path: &'static str) -> Table {
    Table { name: "runs", title: "Every run, one row a run", path, columns: &RUN_COLUMNS }
}

/// Every run of several tables, a line each under one header.
#[must_use]
pub fn runs_of_all<T: AsRef<[u8]>>(tables: &[T]) -> Vec<u8> {
    let header = |table: &[u8]| table.windows(2).position(|two| two == b"\r\n").map_or(0, |at| at + 2);
    let names: Vec<&str> = RUN_COLUMNS.iter().map(|column| column.name).collect();
    let mut whole = format!("{}\r\n", names.join(",")).into_bytes();
    for own in tables.iter().map(AsRef::as_ref) {
        whole.extend_from_slice(own.get(header(own)..).unwrap_or_default());
    }
    whole
}

/// The table of amplifiers, one row each.
#[must_use]
pub const fn amplifiers(path: &'static str) -> Table {
    Table { name: "amplifiers", title: "Every amplifier, one row each", path, columns: &AMPLIFIERS }
}

/// What a package says of itself.
#[derive(Debug, Clone, Copy)]
pub struct About<'a> {
    /// Title.
    pub name: &'a str,
    /// Licence of what is published.
    pub licence: Option<&'a str>,
    /// Address it will have.
    pub url: Option<&'a str>,
}

/// The description of a package, as `datapackage.json`.
///
/// # Errors
/// When it cannot be written as JSON.
pub fn package(about: &About, tables: &[Table]) -> serde_json::Result<Vec<u8>> {
    let resource = |table: &Table| {
        let fields: Vec<Value> = table.columns.iter().map(Column::field).collect();
        json!({
            "name": table.name,
            "title": table.title,
            "path": table.path,
            "profile": "tabular-data-resource",
            "format": "csv",
            "mediatype": "text/csv",
            "encoding": "utf-8",
            "dialect": { "delimiter": ",", "lineTerminator": "\r\n", "header": true },
            "schema": { "fields": fields, "missingValues": [""] },
        })
    };
    let mut package = json!({
        "profile": "tabular-data-package",
        "name": "bench-tests",
        "title": about.name,
        "resources": tables.iter().map(resource).collect::<Vec<_>>(),
    });
    if let Some(licence) = about.licence {
        package["licenses"] = json!([{ "title": licence, "name": licence.replace(' ', "-") }]);
    }
    if let Some(url) = about.url {
        package["homepage"] = json!(url);
    }
    serde_json::to_vec_pretty(&package)
}

const AMPLIFIERS: [Column; 18] = [
    Column::new("amplifier", Kind::Text, "Make and model."),
    Column::new("class", Kind::Text, "AB, D, GH or other."),
    Column::new("purpose", Kind::Text, "full-range or subwoofer."),
    Column::new("outputs", Kind::Integer, "Outputs of its own."),
    Column::new("stage", Kind::Text, "no-claims, not-run, under-test, tested or died."),
    Column::new("verdict", Kind::Text, "modest, pukka, near-enough, optimistic, tall-tale or open; empty where nothing was run."),
    Column::new("provisional", Kind::YesNo, "yes where not every claim is tested, or a stop is open."),
    Column::new("runs logged", Kind::Integer, "Places of the plan with a run."),
    Column::new("runs planned", Kind::Integer, "Places of the plan."),
    Column::new("headline claim (W)", Kind::Number, "Largest claim, all outputs together."),
    Column::new("headline clean (W)", Kind::Number, "Certified power at that claim's load, as read."),
    Column::new("clean at 14.4 V (W)", Kind::Number, "Most certified power at a claimed load, brought to 14.4 V; the lower end of a band."),
    Column::new("clean at 14.4 V expanded uncertainty (W)", Kind::Number, "Half-width at k = 2. JCGM 100:2008."),
    Column::new("clean at 14.4 V load", Kind::Text, "The load it was made into."),
    Column::new("efficiency there (%)", Kind::Number, "Output over draw at that load."),
    Column::new("price", Kind::Number, "Price in its own currency."),
    Column::new("currency", Kind::Text, "ISO 4217."),
    Column::new("price on", Kind::Date, "The day it cost that."),
];

/// The table of amplifiers as CSV.
///
/// # Errors
/// When a line cannot be written.
pub fn amplifiers_csv<'a>(summaries: impl IntoIterator<Item = &'a Summary>) -> Result<Vec<u8>, csv::Error> {
    let mut writer = csv::WriterBuilder::new().terminator(csv::Terminator::CRLF).from_writer(Vec::new());
    writer.write_record(AMPLIFIERS.iter().map(|column| column.name))?;
    for summary in summaries {
        writer.write_record(amplifier_row(summary))?;
    }
    writer.into_inner().map_err(|error| error.into_error().into())
}

fn amplifier_row(summary: &Summary) -> [String; 18] {
    let word = |value: Value| value.as_str().unwrap_or_default().to_owned();
    let number = |value: Option<f64>| value.map(|value| round9(value).to_string()).unwrap_or_default();
    let clean = summary.clean();
    [
        inert(&summary.name),
        word(json!(summary.class)),
        word(json!(summary.purpose)),
        summary.outputs.to_string(),
        word(json!(summary.stage)),
        summary.overall.map(|overall| word(json!(overall))).unwrap_or_default(),
        if summary.provisional { "yes" } else { "no" }.into(),
        summary.logged.to_string(),
        summary.planned.to_string(),
        number(summary.headline_w),
        number(summary.clean_w),
        number(clean.map(|clean| clean.watts)),
        number(clean.map(|clean| clean.u_w)),
        clean.map(|clean| clean.load.clone()).unwrap_or_default(),
        number(clean.and_then(|clean| clean.efficiency_percent)),
        number(summary.price_amount),
        summary.price_currency.clone().unwrap_or_default(),
        summary.price_on.map(|on| on.to_string()).unwrap_or_default(),
    ]
}

#[cfg(test)]
mod tests {
    use pukka_core::record::session::examples::mono_1100;
    use pukka_core::report::summary::summary;

    use super::*;
    use crate::sheet::csv;

    /// Whether a text is what its column says.
    fn fits(field: &Value, text: &str) -> bool {
        if text.is_empty() {
            return true;
        }
        match field["type"].as_str().unwrap() {
            "number" => text.parse::<f64>().is_ok_and(f64::is_finite),
            "integer" => text.parse::<i64>().is_ok(),
            "datetime" => text.parse::<jiff::Timestamp>().is_ok(),
            "date" => text.parse::<jiff::civil::Date>().is_ok(),
            "boolean" => ["yes", "no"].contains(&text),
            "string" => true,
            other => panic!("no kind {other}"),
        }
    }

    #[test]
    fn every_table_reads_back_by_its_own_description() {
        let mut session = mono_1100();
        session.amplifier.model = "=cmd".into();
        session.amplifier.make = "".into();
        let about = About { name: "Ferry Lane", licence: Some("CC BY 4.0"), url: None };
        let package = package(&about, &[runs("runs.csv"), amplifiers("amplifiers.csv")]).unwrap();
        let package: Value = serde_json::from_slice(&package).unwrap();
        assert_eq!((&package["profile"], &package["licenses"][0]["title"]), (&json!("tabular-data-package"), &json!("CC BY 4.0")));
        let tables = [csv(&session).unwrap(), amplifiers_csv([&summary(&session)]).unwrap()];
        for (resource, bytes) in package["resources"].as_array().unwrap().iter().zip(tables) {
            let fields = resource["schema"]["fields"].as_array().unwrap();
            let mut reader = ::csv::Reader::from_reader(bytes.as_slice());
            let names: Vec<String> = reader.headers().unwrap().iter().map(str::to_owned).collect();
            assert_eq!(names, fields.iter().map(|field| field["name"].as_str().unwrap().to_owned()).collect::<Vec<_>>());
            assert!(fields.iter().all(|field| field["description"].as_str().unwrap().ends_with('.')), "each says what it is");
            let mut rows = 0;
            for row in reader.records() {
                let row = row.unwrap();
                for (field, text) in fields.iter().zip(&row) {
                    assert!(fits(field, text), "{}: {text:?}", field["name"]);
                }
                assert!(!row[0].starts_with('='), "a spreadsheet would run it");
                rows += 1;
            }
            assert_eq!(rows, if resource["name"] == "runs" { 9 } else { 1 });
        }
    }
}
