//! A look at a database that changes nothing in it: not its shape, nor what SQLite lays beside it for good.

use crate::{DATABASE, MIGRATIONS, StoreError};
use diesel::migration::MigrationSource;
use diesel::prelude::*;
use diesel::sql_types::{BigInt, Nullable, Text};
use diesel::sqlite::Sqlite;
use std::path::Path;

/// How a database stands to this version.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Shape {
    /// As this version makes it.
    Same,
    /// Of an earlier version: it is brought up at the next start, after a copy.
    Older,
    /// Of a later version, which this one refuses.
    Newer,
}

/// What a look at a database shows.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Peek {
    /// How it stands to this version.
    pub shape: Shape,
    /// What SQLite finds damaged; `None`: nothing.
    pub damage: Option<String>,
    /// When its last entry was kept, ms since 1970 UTC, by the clock of then.
    pub last_ms: Option<i64>,
}

#[derive(QueryableByName)]
struct Step {
    #[diesel(sql_type = Text)]
    version: String,
}
#[derive(QueryableByName)]
struct Check {
    #[diesel(sql_type = Text)]
    quick_check: String,
}
#[derive(QueryableByName)]
struct Last {
    #[diesel(sql_type = Nullable<BigInt>)]
    ms: Option<i64>,
}

/// Looks at the database of a data folder.
///
/// # Errors
/// If it cannot be read at all.
pub fn peek(dir: &Path) -> Result<Peek, StoreError> {
    let path = dir.join(DATABASE);
    let open = |e: &dyn std::fmt::Display| StoreError::Open(e.to_string());
    let url = path
        .to_str()
        .ok_or_else(|| StoreError::Open("the path is not UTF-8".into()))?;
    // Percent, question mark and hash mean something in such an address.
    let escaped = url
        .replace('%', "%25")
        .replace('?', "%3f")
        .replace('#', "%23");
    let mut c =
        SqliteConnection::establish(&format!("file:{escaped}?mode=ro")).map_err(|e| open(&e))?;
    let steps = MigrationSource::<Sqlite>::migrations(&MIGRATIONS).map_err(|e| open(&e))?;
    let known: Vec<String> = steps
        .iter()
        .map(|m| m.name().version().to_string())
        .collect();
    let run: Vec<Step> = diesel::sql_query("SELECT version FROM __diesel_schema_migrations")
        .load(&mut c)
        .map_err(|e| open(&e))?;
    let shape = if run.iter().any(|s| !known.contains(&s.version)) {
        Shape::Newer
    } else if run.len() < known.len() {
        Shape::Older
    } else {
        Shape::Same
    };
    let check: Check = diesel::sql_query("PRAGMA quick_check(1)")
        .get_result(&mut c)
        .map_err(|e| open(&e))?;
    let last: Option<Last> = diesel::sql_query(
        "SELECT json_extract(json, '$.kept_ms') AS ms FROM entries ORDER BY rowid DESC LIMIT 1",
    )
    .get_result(&mut c)
    .optional()
    .map_err(|e| open(&e))?;
    Ok(Peek {
        shape,
        damage: (check.quick_check != "ok").then_some(check.quick_check),
        last_ms: last.and_then(|l| l.ms),
    })
}
