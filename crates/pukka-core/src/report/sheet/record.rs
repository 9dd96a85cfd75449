//! The record beside what was measured: parts inside, what stood out, likes; how it sounded, said to be no measurement.

use serde::{Deserialize, Serialize};

use crate::kernel::format;
use crate::record::amplifier::{Capacitors, Devices};
use crate::record::session::Session;

/// A thing that was noted.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Noted {
    /// Name of it.
    pub what: String,
    /// Words.
    pub says: String,
    /// Seen with the lid off.
    pub inside: bool,
}

fn capacitors(row: &Capacitors) -> String {
    let unit = |value: Option<f64>, unit: &str| value.map(|value| format::with_unit(&format::as_read(value), unit));
    let each = [
        unit(row.uf.map(|uf| uf.get()), "µF"),
        unit(row.rated_v.map(|volts| volts.get()), "V"),
        unit(row.rated_c.map(|degrees| degrees.get()), "°C"),
    ];
    let each = each.into_iter().flatten().collect::<Vec<_>>().join(" ");
    let parts = [
        Some(format!("{} × {each}", row.count)),
        row.place.clone(),
        row.fake.then(|| "looks fake".to_owned()),
        marked(row.label.as_deref()),
    ];
    parts.into_iter().flatten().collect::<Vec<_>>().join(", ")
}

/// Where a photo shows it.
fn marked(label: Option<&str>) -> Option<String> {
    label.map(|label| format!("“{label}” in the photo"))
}

fn devices(row: &Devices) -> String {
    let rated = row.rated_a.map(|amps| format::with_unit(&format::as_read(amps.get()), "A each"));
    let parts = [Some(format!("{} × {}", row.count, row.part)), rated, row.place.clone(), marked(row.label.as_deref())];
    parts.into_iter().flatten().collect::<Vec<_>>().join(", ")
}

/// Everything that was noted.
pub(super) fn record(session: &Session) -> Vec<Noted> {
    let amplifier = &session.amplifier;
    let (inside, tour) = (amplifier.inside.as_ref(), amplifier.tour.as_ref());
    let of_inside = |text: Option<&Option<String>>| text.cloned().flatten().unwrap_or_default();
    let listed = |list: &[String]| list.join("; ");
    let seen = [
        ("Capacitors", inside.map(|inside| inside.capacitors.iter().map(capacitors).collect::<Vec<_>>().join("; ")).unwrap_or_default()),
        ("Devices", inside.map(|inside| inside.devices.iter().map(devices).collect::<Vec<_>>().join("; ")).unwrap_or_default()),
        ("Board", of_inside(inside.map(|inside| &inside.board))),
        ("Cooling", of_inside(inside.map(|inside| &inside.cooling))),
        ("Seen inside", of_inside(inside.map(|inside| &inside.note))),
        ("After it died", session.post_mortem.as_ref().map(|found| found.words()).unwrap_or_default()),
    ];
    let told = [
        ("Controls", amplifier.controls.iter().map(|control| control.words()).collect::<Vec<_>>().join("; ")),
        ("Terminals", amplifier.terminals.as_ref().map(|terminals| terminals.words()).unwrap_or_default()),
        ("Supplied with it", listed(&amplifier.accessories)),
        ("Missing", listed(&amplifier.accessories_missing)),
        ("Manual", of_inside(tour.map(|tour| &tour.manual))),
        ("Warranty", of_inside(tour.map(|tour| &tour.warranty))),
        ("What stood out", of_inside(tour.map(|tour| &tour.stood_out))),
        ("Likes", listed(&amplifier.likes)),
        ("Consider", listed(&amplifier.consider)),
        ("How it sounded, not measured", session.listening.as_ref().and_then(|listening| listening.words.clone()).unwrap_or_default()),
    ];
    let noted = |(what, says): (&str, String), inside| (!says.is_empty()).then(|| Noted { what: what.to_owned(), says, inside });
    seen.into_iter().filter_map(|one| noted(one, true)).chain(told.into_iter().filter_map(|one| noted(one, false))).collect()
}
