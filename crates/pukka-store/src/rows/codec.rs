//! Records to columns and back: a column has the name of the field it holds, so that both stay one thing.

use rusqlite::types::Value as Sql;
use serde::Serialize;
use serde::de::DeserializeOwned;

use rusqlite::{Connection, OptionalExtension, Row, params_from_iter};
use serde_json::{Map, Number, Value};

use crate::{Author, StoreError};

/// Type of a column.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Kind {
    Text,
    Real,
    Int,
    Bool,
    /// JSON text.
    Json,
}

/// The columns of a table that hold a record's own fields.
#[derive(Debug)]
pub struct Table {
    pub name: &'static str,
    /// Name in sentences.
    pub what: &'static str,
    pub columns: &'static [(&'static str, Kind)],
}

impl Table {
    /// The record's columns and `extra`, comma-separated, for a SELECT.
    pub fn list(&self) -> String {
        self.columns.iter().map(|(name, _)| format!("{:?}", *name)).chain(["extra".to_owned()]).collect::<Vec<_>>().join(", ")
    }

    /// Splits a record into column values; what no column holds goes into `extra`.
    fn split(&self, record: &impl Serialize) -> Result<Vec<(&'static str, Sql)>, StoreError> {
        let unreadable = |why| StoreError::Unreadable { what: self.what, why };
        let Value::Object(mut fields) = serde_json::to_value(record).map_err(unreadable)? else {
            return Err(StoreError::Broken);
        };
        let mut columns: Vec<(&'static str, Sql)> =
            self.columns.iter().map(|(name, kind)| (*name, to_sql(*kind, fields.remove(*name).unwrap_or(Value::Null)))).collect();
        columns.push(("extra", Sql::Text(Value::Object(fields).to_string())));
        Ok(columns)
    }

    /// Inserts a record with what the table keeps beside it.
    pub fn insert(&self, tx: &Connection, beside: &[(&'static str, Sql)], record: &impl Serialize) -> Result<(), StoreError> {
        let all: Vec<(&str, Sql)> = beside.iter().cloned().chain(self.split(record)?).collect();
        let names: Vec<String> = all.iter().map(|(name, _)| format!("{name:?}")).collect();
        let marks = vec!["?"; all.len()].join(", ");
        let sql = format!("INSERT INTO {} ({}) VALUES ({marks})", self.name, names.join(", "));
        tx.prepare_cached(&sql)?.execute(params_from_iter(all.into_iter().map(|(_, value)| value)))?;
        Ok(())
    }

    /// Overwrites a record, at a new revision.
    pub fn update(&self, tx: &Connection, id: &str, beside: &[(&'static str, Sql)], record: &impl Serialize) -> Result<(), StoreError> {
        self.set(tx, id, beside.iter().cloned().chain(self.split(record)?).collect())
    }

    /// Overwrites those columns that `record` names, and no others, at a new revision.
    pub fn update_some(&self, tx: &Connection, id: &str, beside: &[(&'static str, Sql)], record: &Value) -> Result<(), StoreError> {
        let named = self.columns.iter().filter_map(|(name, kind)| Some((*name, to_sql(*kind, record.get(*name)?.clone()))));
        let all: Vec<(&str, Sql)> = beside.iter().cloned().chain(named).collect();
        self.set(tx, id, all)
    }

    fn set(&self, tx: &Connection, id: &str, all: Vec<(&str, Sql)>) -> Result<(), StoreError> {
        let sets: Vec<String> = all.iter().map(|(name, _)| format!("{name:?} = ?")).collect();
        let sql = format!("UPDATE {} SET {} WHERE id = ?", self.name, sets.join(", "));
        let values = all.into_iter().map(|(_, value)| value).chain([Sql::Text(id.to_owned())]);
        tx.prepare_cached(&sql)?.execute(params_from_iter(values))?;
        Ok(())
    }

    /// The record in the columns of [`Self::list`], from column `first` on.
    pub fn record<T: DeserializeOwned>(&self, row: &Row, first: usize) -> Result<T, StoreError> {
        let value = self.fields(row, first)?;
        serde_json::from_value(Value::Object(value)).map_err(|why| StoreError::Unreadable { what: self.what, why })
    }

    /// Likewise, as fields.
    pub fn fields(&self, row: &Row, first: usize) -> Result<Map<String, Value>, StoreError> {
        let extra: String = row.get(first + self.columns.len())?;
        let mut fields: Map<String, Value> = serde_json::from_str(&extra).map_err(|why| StoreError::Unreadable { what: self.what, why })?;
        for (i, (name, kind)) in self.columns.iter().enumerate() {
            let value = from_sql(*kind, row.get(first + i)?).map_err(|why| StoreError::Unreadable { what: self.what, why })?;
            // Nothing in a column is a field left out: a list that is not there is an empty one.
            if !value.is_null() {
                fields.insert((*name).to_owned(), value);
            }
        }
        Ok(fields)
    }

    /// Revision of a record that was not deleted.
    pub fn revision(&self, tx: &Connection, id: &str) -> Result<i64, StoreError> {
        let sql = format!("SELECT revision FROM {} WHERE id = ? AND deleted_at IS NULL", self.name);
        tx.prepare_cached(&sql)?
            .query_row([id], |row| row.get(0))
            .optional()?
            .ok_or_else(|| StoreError::NotFound { what: self.what, id: id.to_owned() })
    }

    /// Checks that nobody changed the record since `wanted`.
    pub fn expect_revision(&self, tx: &Connection, id: &str, wanted: i64) -> Result<(), StoreError> {
        let have = self.revision(tx, id)?;
        if have == wanted { Ok(()) } else { Err(StoreError::Conflict { what: self.what, wanted, have }) }
    }

    /// Marks a record deleted, or not deleted, at a new revision.
    pub fn set_deleted(&self, tx: &Connection, id: &str, at: Option<&str>) -> Result<(), StoreError> {
        let sql = format!("UPDATE {} SET deleted_at = ?, revision = revision + 1 WHERE id = ?", self.name);
        tx.prepare_cached(&sql)?.execute((at, id))?;
        Ok(())
    }
}

fn to_sql(kind: Kind, value: Value) -> Sql {
    match (kind, value) {
        (_, Value::Null) => Sql::Null,
        (Kind::Json, value) => Sql::Text(value.to_string()),
        (Kind::Bool, Value::Bool(yes)) => Sql::Integer(i64::from(yes)),
        (Kind::Int, Value::Number(n)) => n.as_i64().map_or(Sql::Null, Sql::Integer),
        (_, Value::Number(n)) => n.as_f64().map_or(Sql::Null, Sql::Real),
        (_, Value::String(text)) => Sql::Text(text),
        (_, other) => Sql::Text(other.to_string()),
    }
}

fn from_sql(kind: Kind, value: Sql) -> Result<Value, serde_json::Error> {
    Ok(match (kind, value) {
        (Kind::Json, Sql::Text(text)) => serde_json::from_str(&text)?,
        (Kind::Bool, Sql::Integer(yes)) => Value::Bool(yes != 0),
        (_, Sql::Integer(n)) => Value::Number(n.into()),
        (_, Sql::Real(x)) => Number::from_f64(x).map_or(Value::Null, Value::Number),
        (_, Sql::Text(text)) => Value::String(text),
        (_, Sql::Null | Sql::Blob(_)) => Value::Null,
    })
}

/// Columns of a new record: its id, its first revision, when and by whom.
pub fn stamps_of_new(id: &str, author: &Author) -> Vec<(&'static str, Sql)> {
    let at = moment(author.at);
    vec![("id", text(id)), ("revision", Sql::Integer(1)), ("created_at", at.clone()), ("updated_at", at), ("who", text(&author.who))]
}

/// Columns of a changed record: its new revision, when and by whom.
pub fn stamps_of_change(revision: i64, author: &Author) -> Vec<(&'static str, Sql)> {
    vec![("revision", Sql::Integer(revision)), ("updated_at", moment(author.at)), ("who", text(&author.who))]
}

/// Text as an SQL value.
pub fn text(value: impl Into<String>) -> Sql {
    Sql::Text(value.into())
}

/// A moment as an SQL value.
pub fn moment(at: jiff::Timestamp) -> Sql {
    Sql::Text(at.to_string())
}
