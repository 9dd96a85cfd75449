//! Numbered migrations: each a file, never edited once it has landed.

use rusqlite::Connection;
use rusqlite_migration::{M, Migrations};

use crate::StoreError;

const STEPS: &[M] = &[
    M::up(include_str!("../migrations/01_records.sql")),
    M::up(include_str!("../migrations/02_before_the_bench.sql")),
    M::up(include_str!("../migrations/03_at_the_bench.sql")),
    M::up(include_str!("../migrations/04_in_and_out.sql")),
    M::up(include_str!("../migrations/05_redo.sql")),
    M::up(include_str!("../migrations/06_versions.sql")),
    M::up(include_str!("../migrations/07_rules_5.sql")),
    M::up(include_str!("../migrations/08_whole_record.sql")),
    M::up(include_str!("../migrations/09_mixed_wiring.sql")),
    M::up(include_str!("../migrations/10_shelf.sql")),
    M::up(include_str!("../migrations/11_photos_and_notes.sql")),
    M::up(include_str!("../migrations/12_signature.sql")),
    M::up(include_str!("../migrations/13_value.sql")),
    M::up(include_str!("../migrations/14_written.sql")),
    M::up(include_str!("../migrations/15_retests_and_lessons.sql")),
    M::up(include_str!("../migrations/16_tags.sql")),
    M::up(include_str!("../migrations/17_few_of_many.sql")),
    M::up(include_str!("../migrations/18_value_by_load_and_views.sql")),
];

/// The newest version of the schema.
pub const fn latest() -> usize {
    STEPS.len()
}

/// Brings a database up to date.
pub fn migrate(connection: &mut Connection) -> Result<(), StoreError> {
    if crate::health::version(connection)? > latest() {
        return Err(StoreError::Newer);
    }
    Migrations::from_slice(STEPS).to_latest(connection).map_err(|why| StoreError::Migration { why })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn steps_are_sound_on_an_empty_database_and_again() {
        Migrations::from_slice(STEPS).validate().unwrap();
        let mut connection = Connection::open_in_memory().unwrap();
        migrate(&mut connection).unwrap();
        migrate(&mut connection).unwrap();
        let tables: i64 = connection
            .query_row("SELECT count(*) FROM sqlite_schema WHERE type = 'table' AND name IN ('amplifier', 'run', 'act')", [], |r| r.get(0))
            .unwrap();
        assert_eq!(tables, 3);
    }

    #[test]
    fn a_database_of_a_newer_program_is_refused() {
        let mut connection = Connection::open_in_memory().unwrap();
        migrate(&mut connection).unwrap();
        connection.pragma_update(None, "user_version", 999).unwrap();
        assert!(matches!(migrate(&mut connection), Err(StoreError::Newer)));
    }

    #[test]
    fn records_of_an_older_program_come_along() {
        let mut connection = Connection::open_in_memory().unwrap();
        Migrations::from_slice(&STEPS[..1]).to_latest(&mut connection).unwrap();
        connection
            .execute_batch(
                "INSERT INTO amplifier (id, revision, created_at, updated_at, who, make, model, class, purpose, supply_type, channels, provenance)
                 VALUES ('a', 1, '2026-11-20T10:00:00Z', '2026-11-20T10:00:00Z', 'local', 'Fennway', 'Slim 75.2', 'AB', 'full-range', 'unknown', 2, 'bought');
                 INSERT INTO session (id, revision, created_at, updated_at, who, amplifier_id, rules_version, bench, policy, run_order)
                 VALUES ('s', 1, '2026-11-20T10:00:00Z', '2026-11-20T10:00:00Z', 'local', 'a', 1, '{\"supply\":{\"kind\":\"battery\"}}', '{}', 'rung');
                 INSERT INTO rung (id, revision, created_at, updated_at, who, session_id, wiring, load_ohm, modes)
                 VALUES ('r', 1, '2026-11-20T10:00:00Z', '2026-11-20T10:00:00Z', 'local', 's', '{\"kind\":\"mono\"}', 4.0, '[\"certified\"]');",
            )
            .unwrap();
        migrate(&mut connection).unwrap();
        let row = crate::sessions::load(&connection, "s").unwrap();
        assert_eq!(row.session.amplifier.name(), "Fennway Slim 75.2");
        assert!(row.session.amplifier.controls.is_empty() && row.session.gain.is_none() && row.ticked.is_empty());
        assert_eq!(row.session.plan.rungs.len(), 1);
    }
}
