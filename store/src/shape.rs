//! The shape of the database: made by the migrations, and held against what they make before anything is done with it.

use crate::{MIGRATIONS, StoreError};
use diesel::prelude::*;
use diesel::sql_types::{Nullable, Text};
use diesel_migrations::MigrationHarness;
use std::collections::BTreeMap;

#[derive(QueryableByName)]
struct Made {
    #[diesel(sql_type = Text)]
    name: String,
    #[diesel(sql_type = Nullable<Text>)]
    sql: Option<String>,
}

/// Everything a database is made of, tables, indices and triggers, by name.
fn shape(c: &mut SqliteConnection) -> Result<BTreeMap<String, String>, StoreError> {
    let made =
        diesel::sql_query("SELECT name, sql FROM sqlite_master WHERE name NOT LIKE 'sqlite_%'");
    Ok(made
        .load::<Made>(c)?
        .into_iter()
        .map(|m| (m.name, m.sql.unwrap_or_default()))
        .collect())
}

/// Runs what migrations are still to be run, and refuses a database that is not as they make it: of a newer version, of
/// another program, or with its guards taken away.
///
/// # Errors
/// What differs, by name.
pub fn bring_up(c: &mut SqliteConnection) -> Result<(), StoreError> {
    let open = |e: &dyn std::fmt::Display| StoreError::Open(e.to_string());
    let known = <diesel_migrations::EmbeddedMigrations as diesel::migration::MigrationSource<
        diesel::sqlite::Sqlite,
    >>::migrations(&MIGRATIONS)
    .map_err(|e| open(&e))?;
    let has_run = c.applied_migrations().map_err(|e| open(&e))?;
    if let Some(newer) = has_run
        .iter()
        .find(|v| !known.iter().any(|m| m.name().version() == **v))
    {
        return Err(StoreError::Open(format!(
            "it is of a newer version of Ruhe (step {newer}); start that version, or put an older copy back"
        )));
    }
    c.run_pending_migrations(MIGRATIONS).map_err(|e| open(&e))?;
    let mut fresh = SqliteConnection::establish(":memory:").map_err(|e| open(&e))?;
    fresh
        .run_pending_migrations(MIGRATIONS)
        .map_err(|e| open(&e))?;
    let (is, should) = (shape(c)?, shape(&mut fresh)?);
    let differs = should
        .keys()
        .chain(is.keys())
        .find(|name| is.get(*name) != should.get(*name));
    match differs {
        None => Ok(()),
        Some(name) => Err(StoreError::Open(format!(
            "“{name}” in it is not as this version of Ruhe makes it: the file was changed by something else, or belongs to another version"
        ))),
    }
}
