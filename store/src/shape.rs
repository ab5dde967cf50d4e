//! The shape of the database: made by the migrations, and held against what they make before anything is done with it.

use crate::StoreError;
use diesel::migration::{Migration, MigrationSource, MigrationVersion};
use diesel::prelude::*;
use diesel::sql_types::{Nullable, Text};
use diesel::sqlite::Sqlite;
use diesel_migrations::MigrationHarness;
use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

#[derive(QueryableByName)]
struct Made {
    #[diesel(sql_type = Text)]
    name: String,
    #[diesel(sql_type = Nullable<Text>)]
    sql: Option<String>,
}

fn open(e: &dyn std::fmt::Display) -> StoreError {
    StoreError::Open(e.to_string())
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

/// Runs what steps are still to be run, all or none of them and a copy of the file first, and refuses a database that
/// is not as they make it: of a newer version, of another program, or with its guards taken away.
///
/// # Errors
/// What differs, by name; or the step that could not be done, and where the copy lies.
pub fn bring_up(
    c: &mut SqliteConnection,
    path: &Path,
    steps: impl MigrationSource<Sqlite>,
) -> Result<(), StoreError> {
    let known = steps.migrations().map_err(|e| open(&e))?;
    let has_run = c.applied_migrations().map_err(|e| open(&e))?;
    if let Some(newer) = has_run
        .iter()
        .find(|v| !known.iter().any(|m| m.name().version() == **v))
    {
        return Err(StoreError::Open(format!(
            "it is of a newer version of Ruhe (step {newer}); start that version, or put an older copy back"
        )));
    }
    if has_run.len() < known.len() {
        run(c, path, &has_run, &known)?;
    }
    let mut fresh = SqliteConnection::establish(":memory:").map_err(|e| open(&e))?;
    // Asked what has run, it makes the table that it is written into.
    fresh.applied_migrations().map_err(|e| open(&e))?;
    fresh.run_migrations(&known).map_err(|e| open(&e))?;
    let (is, should) = (shape(c)?, shape(&mut fresh)?);
    let differs = should
        .keys()
        .chain(is.keys())
        .find(|name| is.get(*name) != should.get(*name));
    match differs {
        None => Ok(()),
        Some(name) => Err(StoreError::Open(format!(
            "“{name}” in it is not as this version of Ruhe makes it: the file was changed by something else, or \
             belongs to another version"
        ))),
    }
}

/// Runs the steps that have not run, all or none of them.
fn run(
    c: &mut SqliteConnection,
    path: &Path,
    has_run: &[MigrationVersion<'_>],
    steps: &[Box<dyn Migration<Sqlite>>],
) -> Result<(), StoreError> {
    let copy = (!has_run.is_empty()).then(|| beside(path, has_run.len()));
    if let Some(copy) = &copy {
        crate::copy(c, copy)?;
    }
    let mut at = String::new();
    let all = c.immediate_transaction(|c| {
        for step in steps {
            let version = step.name().version();
            at = version.to_string();
            if !has_run.contains(&version) {
                c.run_migration(step)?;
            }
        }
        Ok::<_, Box<dyn std::error::Error + Send + Sync>>(())
    });
    all.map_err(|e| match &copy {
        None => open(&e),
        Some(copy) => StoreError::Open(format!(
            "it could not be brought up to this version (step {at}: {e}). Nothing in it was changed; a copy \
             from before is {}",
            copy.display()
        )),
    })
}

/// A file beside the database that is not there yet: "ruhe.sqlite.before-2".
fn beside(path: &Path, done: usize) -> PathBuf {
    let name = |more: &str| {
        let mut name = path.as_os_str().to_owned();
        name.push(format!(".before-{}{more}", done + 1));
        PathBuf::from(name)
    };
    (1..)
        .map(|n| {
            name(&if n == 1 {
                String::new()
            } else {
                format!("-{n}")
            })
        })
        .find(|p| !p.exists())
        .unwrap_or_else(|| name(""))
}

#[cfg(test)]
mod tests {
    use super::*;
    use diesel::connection::SimpleConnection as _;
    use diesel::migration::{MigrationMetadata, MigrationName, Result as Done};

    /// A step: its number and what it does.
    #[derive(Clone, Copy)]
    struct Step(&'static str, &'static str);

    impl std::fmt::Display for Step {
        fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
            f.write_str(self.0)
        }
    }
    impl MigrationName for Step {
        fn version(&self) -> MigrationVersion<'_> {
            self.0.into()
        }
    }
    impl MigrationMetadata for Step {
        fn run_in_transaction(&self) -> bool {
            true
        }
    }
    impl Migration<Sqlite> for Step {
        fn run(&self, c: &mut dyn diesel::connection::BoxableConnection<Sqlite>) -> Done<()> {
            Ok(c.batch_execute(self.1)?)
        }
        fn revert(&self, _: &mut dyn diesel::connection::BoxableConnection<Sqlite>) -> Done<()> {
            Ok(())
        }
        fn metadata(&self) -> &dyn MigrationMetadata {
            self
        }
        fn name(&self) -> &dyn MigrationName {
            self
        }
    }

    #[derive(Clone, Copy)]
    struct Steps(&'static [Step]);
    impl MigrationSource<Sqlite> for Steps {
        fn migrations(&self) -> Done<Vec<Box<dyn Migration<Sqlite>>>> {
            let boxed = |s: &Step| -> Box<dyn Migration<Sqlite>> { Box::new(*s) };
            Ok(self.0.iter().map(boxed).collect())
        }
    }

    const FIRST: Step = Step(
        "1",
        "CREATE TABLE logs (a TEXT); INSERT INTO logs VALUES ('kept')",
    );
    const SECOND: Step = Step("2", "ALTER TABLE logs ADD COLUMN b TEXT");
    const BROKEN: Step = Step("3", "ALTER TABLE logs DROP COLUMN never_there");

    fn kept(path: &Path) -> usize {
        let mut c = SqliteConnection::establish(path.to_str().unwrap()).unwrap();
        diesel::sql_query("SELECT a AS name, NULL AS sql FROM logs WHERE a = 'kept'")
            .load::<Made>(&mut c)
            .unwrap()
            .len()
    }

    fn opened(path: &Path, steps: &'static [Step]) -> Result<(), String> {
        let mut c = SqliteConnection::establish(path.to_str().unwrap()).unwrap();
        bring_up(&mut c, path, Steps(steps)).map_err(|e| e.to_string())
    }

    #[test]
    fn an_older_database_is_copied_and_brought_up_whole_or_not_at_all() {
        let dir = tempfile::tempdir().unwrap();
        let path = dir.path().join("ruhe.sqlite");
        let copy = |name: &str| dir.path().join(name);
        opened(&path, &[FIRST]).unwrap();
        assert!(
            !copy("ruhe.sqlite.before-2").exists(),
            "of nothing there is no copy"
        );
        // The third step fails: the second is not done either, and the version before still opens it.
        let told = opened(&path, &[FIRST, SECOND, BROKEN]).unwrap_err();
        assert!(
            told.contains("step 3") && told.contains("ruhe.sqlite.before-2"),
            "{told}"
        );
        assert_eq!(kept(&copy("ruhe.sqlite.before-2")), 1);
        opened(&path, &[FIRST]).unwrap();
        opened(&path, &[FIRST, SECOND]).unwrap();
        assert_eq!((kept(&path), kept(&copy("ruhe.sqlite.before-2-2"))), (1, 1));
        // Nothing to do, nothing copied; an older program says who made it.
        opened(&path, &[FIRST, SECOND]).unwrap();
        assert_eq!(std::fs::read_dir(dir.path()).unwrap().count(), 3);
        assert!(
            opened(&path, &[FIRST])
                .unwrap_err()
                .contains("newer version of Ruhe (step 2)")
        );
        // A column that no step made.
        SqliteConnection::establish(path.to_str().unwrap())
            .unwrap()
            .batch_execute("ALTER TABLE logs ADD COLUMN c TEXT")
            .unwrap();
        assert!(
            opened(&path, &[FIRST, SECOND])
                .unwrap_err()
                .contains("“logs”")
        );
    }
}
