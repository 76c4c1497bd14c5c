//! Rows of the data file, as values.

use crate::error::Result;
use rusqlite::{Connection, Params, Row};
use serde::Serialize;
use serde::de::DeserializeOwned;
use serde_json::Value;

/// A name out of a closed list, as the database stores it.
pub(crate) fn word<T: DeserializeOwned>(text: String) -> rusqlite::Result<T> {
    serde_json::from_value(Value::String(text)).map_err(unreadable)
}

pub(crate) fn as_word(value: impl Serialize) -> Result<String> {
    match serde_json::to_value(value)? {
        Value::String(text) => Ok(text),
        other => Ok(other.to_string()),
    }
}

pub(crate) fn unreadable(error: impl std::error::Error + Send + Sync + 'static) -> rusqlite::Error {
    rusqlite::Error::FromSqlConversionFailure(0, rusqlite::types::Type::Text, Box::new(error))
}

/// A row that names something that is not there.
pub(crate) fn astray(what: &'static str, name: impl std::fmt::Display) -> rusqlite::Error {
    unreadable(std::io::Error::other(format!(
        "a stored row names a {what} that is not there: {name}"
    )))
}

/// All rows of a question.
pub(crate) fn rows<T>(
    t: &Connection,
    sql: &str,
    params: impl Params,
    map: impl FnMut(&Row<'_>) -> rusqlite::Result<T>,
) -> Result<Vec<T>> {
    let mut statement = t.prepare_cached(sql)?;
    let found = statement
        .query_map(params, map)?
        .collect::<rusqlite::Result<_>>()?;
    Ok(found)
}
