//! Partial changes: what a patch names is changed, `null` takes it away, everything else stays as it is.
//!
//! Ref: RFC 7396, JSON Merge Patch.

use axum::body::Bytes;
use axum::extract::{FromRequest, Request};
use pukka_core::kernel::problem::{Problem, read_json};
use serde::Serialize;
use serde::de::DeserializeOwned;
use serde_json::{Map, Value};

use super::ApiError;
use super::body::{read_raw, sound, unlike_a_record};

/// A merge patch for an object.
#[derive(Debug)]
pub struct Patch {
    changes: Map<String, Value>,
    /// As sent, for telling one request from another.
    pub raw: Bytes,
}

impl Patch {
    /// Refuses names that the record has no field for.
    pub fn names_only(&self, fields: &[&str]) -> Result<(), ApiError> {
        let unknown = self.changes.keys().filter(|name| !fields.contains(&name.as_str()));
        sound(unknown.map(|name| Problem::new(name.as_str(), "There is no such field.")).collect())
    }

    /// The record with the patch on it.
    pub fn onto<T: Serialize + DeserializeOwned>(&self, record: &T) -> Result<T, ApiError> {
        let mut value = serde_json::to_value(record).map_err(|why| ApiError::invalid(vec![unlike_a_record(&why)]))?;
        merge(&mut value, &Value::Object(self.changes.clone()));
        let text = serde_json::to_vec(&value).map_err(|why| ApiError::invalid(vec![unlike_a_record(&why)]))?;
        read_json(&text).map_err(|problem| ApiError::invalid(vec![problem]))
    }
}

fn merge(target: &mut Value, patch: &Value) {
    let Value::Object(changes) = patch else {
        *target = patch.clone();
        return;
    };
    if !target.is_object() {
        *target = Value::Object(Map::new());
    }
    let Some(fields) = target.as_object_mut() else { return };
    for (name, change) in changes {
        if change.is_null() {
            fields.remove(name);
        } else {
            merge(fields.entry(name.clone()).or_insert(Value::Null), change);
        }
    }
}

impl<S: Send + Sync> FromRequest<S> for Patch {
    type Rejection = ApiError;

    async fn from_request(request: Request, state: &S) -> Result<Self, ApiError> {
        let raw = read_raw(request, state, &["application/merge-patch+json", "application/json"]).await?;
        let changes = read_json(&raw).map_err(|problem| ApiError::invalid(vec![problem]))?;
        Ok(Self { changes, raw })
    }
}

#[cfg(test)]
mod tests {
    use serde_json::json;

    use super::*;

    #[test]
    fn the_examples_of_the_standard() {
        // RFC 7396, appendix A.
        let cases = [
            (json!({"a":"b"}), json!({"a":"c"}), json!({"a":"c"})),
            (json!({"a":"b"}), json!({"b":"c"}), json!({"a":"b","b":"c"})),
            (json!({"a":"b"}), json!({"a":null}), json!({})),
            (json!({"a":"b","b":"c"}), json!({"a":null}), json!({"b":"c"})),
            (json!({"a":["b"]}), json!({"a":"c"}), json!({"a":"c"})),
            (json!({"a":"c"}), json!({"a":["b"]}), json!({"a":["b"]})),
            (json!({"a":{"b":"c"}}), json!({"a":{"b":"d","c":null}}), json!({"a":{"b":"d"}})),
            (json!({"a":[{"b":"c"}]}), json!({"a":[1]}), json!({"a":[1]})),
            (json!({"e":null}), json!({"a":1}), json!({"e":null,"a":1})),
            (json!([1, 2]), json!({"a":"b","c":null}), json!({"a":"b"})),
            (json!({}), json!({"a":{"bb":{"ccc":null}}}), json!({"a":{"bb":{}}})),
        ];
        for (mut target, patch, wanted) in cases {
            merge(&mut target, &patch);
            assert_eq!(target, wanted, "{patch}");
        }
    }
}
