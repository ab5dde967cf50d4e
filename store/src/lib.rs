//! ruhe-store: logs, readings, photos and the index, in SQLite through Diesel.
//!
//! Rows go in and come out; what they mean is not known here. Entries, readings and photos are insert-only, a signed
//! circuit takes nothing more, and the index follows the log: triggers in the migration see to all three. Everything
//! that reads and then writes does so in one immediate transaction ([`Store::write`]).
#![cfg_attr(test, allow(clippy::unwrap_used))]

mod gauges;
mod index;
mod logs;
mod peek;
mod people;
mod readings;
pub mod rows;
mod schema;
mod shape;

use diesel::connection::SimpleConnection;
use diesel::prelude::*;
use diesel::r2d2::{ConnectionManager, CustomizeConnection, Pool, PooledConnection};
use diesel_migrations::{EmbeddedMigrations, embed_migrations};
use std::path::Path;

pub use index::Wanted;
pub use peek::{Peek, Shape, peek};
pub use readings::Stored;

/// Name of the database in a data folder.
pub const DATABASE: &str = "ruhe.sqlite";
const MIGRATIONS: EmbeddedMigrations = embed_migrations!();

/// Why the store refused.
#[derive(Debug, thiserror::Error)]
pub enum StoreError {
    /// There is no such row.
    #[error("there is no such {0}")]
    Missing(&'static str),
    /// The circuit is signed or the test has ended.
    #[error("{0}")]
    Closed(&'static str),
    /// The same id was used for something else.
    #[error("{0}")]
    Conflict(String),
    /// The database could not be opened.
    #[error("the database could not be opened: {0}")]
    Open(String),
    /// Anything the database says that nobody foresaw.
    #[error("database: {0}")]
    Database(diesel::result::Error),
}

impl From<diesel::result::Error> for StoreError {
    fn from(e: diesel::result::Error) -> Self {
        let text = e.to_string();
        if text.contains("circuit is signed") {
            Self::Closed("this circuit is signed and read-only")
        } else if text.contains("test has ended") {
            Self::Closed("this test has ended and takes no more readings")
        } else {
            Self::Database(e)
        }
    }
}

/// A transaction.
pub struct Tx<'a>(&'a mut SqliteConnection);

/// What went wrong inside a transaction: the caller's own, or the database's.
enum Inner<E> {
    Own(E),
    Database(diesel::result::Error),
}

impl<E> From<diesel::result::Error> for Inner<E> {
    fn from(e: diesel::result::Error) -> Self {
        Self::Database(e)
    }
}

fn in_transaction<T, E: From<StoreError>>(done: Result<T, Inner<E>>) -> Result<T, E> {
    done.map_err(|e| match e {
        Inner::Own(e) => e,
        Inner::Database(e) => StoreError::from(e).into(),
    })
}

type Pooled = PooledConnection<ConnectionManager<SqliteConnection>>;

/// The database.
#[derive(Clone)]
pub struct Store {
    pool: Pool<ConnectionManager<SqliteConnection>>,
}

#[derive(Debug)]
struct Pragmas;

impl CustomizeConnection<SqliteConnection, diesel::r2d2::Error> for Pragmas {
    fn on_acquire(&self, c: &mut SqliteConnection) -> Result<(), diesel::r2d2::Error> {
        // FULL: an acknowledged reading must survive a power cut, not only a crash of Ruhe.
        c.batch_execute(
            "PRAGMA busy_timeout = 20000; PRAGMA foreign_keys = ON; PRAGMA synchronous = FULL;",
        )
        .map_err(diesel::r2d2::Error::QueryError)
    }
}

/// Makes a folder that nobody but its owner may look into; one that is there stays as its owner has it.
///
/// # Errors
/// If it cannot be made.
pub fn folder_for_the_owner_alone(dir: &Path) -> std::io::Result<()> {
    let mut builder = std::fs::DirBuilder::new();
    builder.recursive(true);
    #[cfg(unix)]
    std::os::unix::fs::DirBuilderExt::mode(&mut builder, 0o700);
    builder.create(dir)
}

/// Makes a file that nobody but its owner may read, or makes one so; what SQLite lays beside it follows it.
fn for_the_owner_alone(path: &Path) -> std::io::Result<()> {
    let mut options = std::fs::OpenOptions::new();
    options.write(true).create(true).truncate(false);
    #[cfg(unix)]
    {
        use std::os::unix::fs::{OpenOptionsExt as _, PermissionsExt as _};
        options.mode(0o600);
        let file = options.open(path)?;
        if file.metadata()?.permissions().mode() & 0o077 != 0 {
            file.set_permissions(std::fs::Permissions::from_mode(0o600))?;
        }
    }
    #[cfg(not(unix))]
    options.open(path)?;
    Ok(())
}

impl Store {
    /// Opens (or makes) `ruhe.sqlite` in `dir` and brings it up to date.
    ///
    /// # Errors
    /// If the folder or the file cannot be used.
    pub fn open(dir: &Path) -> Result<Self, StoreError> {
        let open = |e: &dyn std::fmt::Display| StoreError::Open(e.to_string());
        folder_for_the_owner_alone(dir).map_err(|e| open(&e))?;
        let path = dir.join(DATABASE);
        let url = path
            .to_str()
            .ok_or_else(|| StoreError::Open("the path is not UTF-8".into()))?;
        for_the_owner_alone(&path).map_err(|e| open(&e))?;
        let mut first = SqliteConnection::establish(url).map_err(|e| open(&e))?;
        first
            .batch_execute("PRAGMA journal_mode = WAL; PRAGMA foreign_keys = ON;")
            .map_err(|e| open(&e))?;
        shape::bring_up(&mut first, &path, MIGRATIONS)?;
        let pool = Pool::builder()
            .max_size(6)
            .connection_customizer(Box::new(Pragmas))
            .build(ConnectionManager::new(url))
            .map_err(|e| open(&e))?;
        Ok(Self { pool })
    }

    /// Reads, all of one moment.
    ///
    /// # Errors
    /// What `f` returns, or database trouble.
    pub fn read<T, E: From<StoreError>>(
        &self,
        f: impl FnOnce(&mut Tx<'_>) -> Result<T, E>,
    ) -> Result<T, E> {
        let mut c = self.connection()?;
        in_transaction(c.transaction(|c| f(&mut Tx(c)).map_err(Inner::Own)))
    }

    /// Reads and writes in one immediate transaction: nobody else writes meanwhile, and all of it is kept or nothing.
    ///
    /// # Errors
    /// What `f` returns, or database trouble.
    pub fn write<T, E: From<StoreError>>(
        &self,
        f: impl FnOnce(&mut Tx<'_>) -> Result<T, E>,
    ) -> Result<T, E> {
        let mut c = self.connection()?;
        in_transaction(c.immediate_transaction(|c| f(&mut Tx(c)).map_err(Inner::Own)))
    }

    fn connection(&self) -> Result<Pooled, StoreError> {
        self.pool.get().map_err(|e| StoreError::Open(e.to_string()))
    }

    /// Copies the whole database to `file` while it is in use.
    ///
    /// # Errors
    /// If `file` exists or cannot be written.
    pub fn backup(&self, file: &Path) -> Result<(), StoreError> {
        if file.exists() {
            return Err(StoreError::Conflict(format!(
                "{} exists already",
                file.display()
            )));
        }
        copy(&mut *self.connection()?, file)
    }
}

/// Copies a whole database to a file that is not there yet.
fn copy(c: &mut SqliteConnection, file: &Path) -> Result<(), StoreError> {
    for_the_owner_alone(file).map_err(|e| StoreError::Open(e.to_string()))?;
    diesel::sql_query("VACUUM INTO ?")
        .bind::<diesel::sql_types::Text, _>(file.to_string_lossy().into_owned())
        .execute(c)?;
    Ok(())
}
