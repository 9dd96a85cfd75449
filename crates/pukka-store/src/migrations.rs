//! Numbered migrations: each a file, never edited once it has landed.

use rusqlite::Connection;
use rusqlite_migration::{M, Migrations};

use crate::StoreError;

const STEPS: &[M] = &[M::up(include_str!("../migrations/01_records.sql"))];

/// Brings a database up to date.
pub fn migrate(connection: &mut Connection) -> Result<(), StoreError> {
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
        assert!(matches!(migrate(&mut connection), Err(StoreError::Migration { .. })));
    }
}
