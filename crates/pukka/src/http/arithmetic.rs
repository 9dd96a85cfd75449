//! Small sums of the bench that belong to no record: a lead's drop, extra drive from two voltages and back.

use axum::Json;
use pukka_core::kernel::problem::Problem;
use pukka_core::kernel::units::Metres;
use pukka_core::kernel::working::Figure;
use pukka_core::record::bench::Lead;
use pukka_core::record::bench::leads::{drop_and_heat, read_section};
use pukka_core::record::session::gain::{drive_db, driven_volts};
use serde::{Deserialize, Serialize};

use super::ApiError;
use super::path::Query;

/// A lead as it is typed.
#[derive(Debug, Deserialize, utoipa::IntoParams)]
#[into_params(parameter_in = Query)]
pub struct LeadQuery {
    /// Length each way.
    length_m: f64,
    /// Section: `50`, `50 mm²`, `1/0 AWG`.
    section: String,
    /// Current.
    current_a: f64,
}

/// Cost of a lead.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct LeadCosts {
    /// Section.
    pub section_mm2: f64,
    /// Volts it drops, there and back.
    pub drop_v: Figure,
    /// Watts it turns to heat.
    pub heat_w: Figure,
}

/// Two voltages, or one and a level.
#[derive(Debug, Deserialize, utoipa::IntoParams)]
#[into_params(parameter_in = Query)]
pub struct DriveQuery {
    /// At clip onset.
    from_v: f64,
    /// Raised to.
    to_v: Option<f64>,
    /// Raised by.
    db: Option<f64>,
}

fn positive(path: &str, value: f64, most: f64) -> Result<f64, ApiError> {
    let problem = || ApiError::invalid(vec![Problem::new(path, format!("This is a number above 0, and at most {most}."))]);
    Some(value).filter(|v| v.is_finite() && *v > 0.0 && *v <= most).ok_or_else(problem)
}

/// Cost of a lead at a current.
#[utoipa::path(get, operation_id = "leadCosts", path = "/arithmetic/lead", params(LeadQuery),
    responses((status = 200, body = LeadCosts)))]
pub async fn lead(Query(typed): Query<LeadQuery>) -> Result<Json<LeadCosts>, ApiError> {
    let section_mm2 = read_section(&typed.section).map_err(|why| ApiError::invalid(vec![Problem::new("section", why)]))?;
    let length_m = Metres::new(typed.length_m).map_err(|why| ApiError::invalid(vec![Problem::new("length_m", format!("{why}."))]))?;
    let current_a = positive("current_a", typed.current_a, 10_000.0)?;
    let lead = Lead { name: "this lead".into(), length_m, section_mm2, extra: serde_json::Map::new() };
    let (drop_v, heat_w) = drop_and_heat(&lead, current_a);
    Ok(Json(LeadCosts { section_mm2: section_mm2.get(), drop_v, heat_w }))
}

/// Extra drive from two voltages, or the voltage for an extra drive.
#[utoipa::path(get, operation_id = "extraDrive", path = "/arithmetic/drive", params(DriveQuery),
    responses((status = 200, body = Figure)))]
pub async fn drive(Query(typed): Query<DriveQuery>) -> Result<Json<Figure>, ApiError> {
    let from_v = positive("from_v", typed.from_v, 2_000.0)?;
    match (typed.to_v, typed.db) {
        (Some(to_v), None) => Ok(Json(drive_db(from_v, positive("to_v", to_v, 2_000.0)?))),
        (None, Some(db)) if db.is_finite() && db.abs() <= 120.0 => Ok(Json(driven_volts(from_v, db))),
        _ => Err(ApiError::invalid(vec![Problem::new("to_v", "Give the voltage it is raised to, or the decibels it is raised by.")])),
    }
}
