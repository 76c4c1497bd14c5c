//! Lists of records as tests write them.

use serde_json::{Value, json};

/// What stands in the head of a record.
const HEAD: [&str; 14] = [
    "key",
    "unit",
    "crop",
    "sample",
    "day",
    "date",
    "time",
    "at",
    "instrument",
    "version",
    "confirmed",
    "instead_of",
    "taken_by",
    "deal",
];

/// A list of one record of a kind, of what it holds all in one: what belongs to its head goes
/// there, and `code` is its unit.
pub fn record(kind: &str, all: Value) -> Value {
    records(&[(kind, all)])
}

/// A list of several.
pub fn records(list: &[(&str, Value)]) -> Value {
    json!({
        "format": 1,
        "records": list.iter().map(|(kind, all)| parted(kind, all)).collect::<Vec<_>>(),
    })
}

fn parted(kind: &str, all: &Value) -> Value {
    let (mut head, mut body) = (serde_json::Map::new(), serde_json::Map::new());
    for (key, value) in all.as_object().into_iter().flatten() {
        let key = if key == "code" && kind != "answer" {
            "unit"
        } else {
            key
        };
        match (key, value) {
            (_, Value::Null) if HEAD.contains(&key) => {}
            ("to" | "expects", Value::Object(of)) if of.contains_key("unit") => {
                head.insert("unit".into(), of["unit"].clone());
                body.insert(key.into(), json!("unit"));
            }
            _ if HEAD.contains(&key) => _ = head.insert(key.into(), value.clone()),
            _ => _ = body.insert(key.into(), value.clone()),
        }
    }
    json!({ "kind": kind, "head": head, "body": body })
}
