//! A copy of a whole data folder while Ruhe runs, and the way back. A copy is a data folder of its own: `ruhe verify --data`
//! looks through it and `ruhe serve --data` would run on it. It has the keys, so it is its owner's alone, as the
//! folder is.

use crate::heads;
use crate::key;
use crate::service::now_ms;
use crate::state::AppState;
use jiff::Timestamp;
use jiff::fmt::strtime;
use ruhe_store::{DATABASE, Store};
use std::path::{Path, PathBuf};
use std::time::Duration;

/// How the name of a copy begins; its moment follows, UTC.
const NAME: &str = "ruhe-";
/// How that moment is written.
const MOMENT: &str = "%Y-%m-%dT%H%M%SZ";
/// What is not whole yet has this behind its name.
const PART: &str = ".part";
/// So often it is looked whether a copy is due.
const LOOK: Duration = Duration::from_secs(600);
const DAY: i64 = 86_400_000;

/// What keeps a copy from being made or used, with the place.
fn at(path: &Path) -> impl Fn(std::io::Error) -> String + '_ {
    move |e| format!("{}: {e}", path.display())
}

/// Copies a data folder into a new folder within `into`, which has its moment as a name, and looks through the copy.
/// Drills are practice, and stay; those that somebody made go along.
///
/// # Errors
/// What cannot be read or written, or the first thing of the copy that is not as it was kept; then none is left.
pub fn back_up(data: &Path, into: &Path, now_ms: i64) -> Result<PathBuf, String> {
    must_hold_one(data)?;
    let moment = Timestamp::from_millisecond(now_ms).map_err(|e| e.to_string())?;
    let named = strtime::format(MOMENT, moment).map_err(|e| e.to_string())?;
    let to = into.join(format!("{NAME}{named}"));
    whole(&to, |part| {
        // Before the database: what was signed after these lines is in the copy all the same, and what they name
        // is not missing from it.
        copy_matching(data, part, |name| {
            heads::is_of_heads(name) || key::is_of_key(name)
        })?;
        copy_tree(&data.join("tls"), &part.join("tls"))?;
        copy_tree(&data.join("drills/own"), &part.join("drills/own"))?;
        Store::open(data)
            .and_then(|s| s.backup(&part.join(DATABASE)))
            .map_err(|e| e.to_string())
    })?;
    Ok(to)
}

/// Puts a copy back as a data folder that is not there yet, after it was looked through.
///
/// # Errors
/// There is a database already; the copy is not as it was kept; what cannot be read or written.
pub fn restore(copy: &Path, data: &Path) -> Result<(), String> {
    must_hold_one(copy)?;
    if data.join(DATABASE).exists() {
        return Err(format!(
            "{} holds a database already: move that folder aside first. Nothing was changed",
            data.display()
        ));
    }
    if data.exists() && std::fs::read_dir(data).map_err(at(data))?.next().is_some() {
        return Err(format!(
            "{} is not empty: name a folder that is not there yet. Nothing was changed",
            data.display()
        ));
    }
    whole(data, |part| copy_tree(copy, part))
}

/// Makes a data folder beside its place, looks through it and gives it its name: whole, or not at all.
fn whole(to: &Path, fill: impl Fn(&Path) -> Result<(), String>) -> Result<(), String> {
    if to.join(DATABASE).exists() {
        return Err(format!("{} is there already", to.display()));
    }
    let mut part = to.as_os_str().to_owned();
    part.push(PART);
    let part = PathBuf::from(part);
    if part.exists() {
        std::fs::remove_dir_all(&part).map_err(at(&part))?;
    }
    let done = folder(&part)
        .and_then(|()| fill(&part))
        .and_then(|()| look_through(&part))
        .and_then(|()| {
            if to.exists() {
                std::fs::remove_dir(to).map_err(at(to))?;
            }
            std::fs::rename(&part, to).map_err(at(to))
        });
    if done.is_err() {
        let _ = std::fs::remove_dir_all(&part);
    }
    done
}

/// Whether all of a data folder is as it was kept.
fn look_through(data: &Path) -> Result<(), String> {
    let found = AppState::open_folder(data)?
        .check_house()
        .map_err(|e| e.to_string())?;
    match found.faults.first() {
        None => Ok(()),
        Some(fault) => Err(format!("it is not as it was kept: {fault}")),
    }
}

/// A folder without a database is a slip of the pen: none is made.
///
/// # Errors
/// If there is none.
pub fn must_hold_one(data: &Path) -> Result<(), String> {
    if data.join(DATABASE).exists() {
        return Ok(());
    }
    Err(format!("there is no database in {}", data.display()))
}

fn folder(path: &Path) -> Result<(), String> {
    ruhe_store::folder_for_the_owner_alone(path).map_err(at(path))
}

/// Copies the files of a folder whose name fits, with who may read them.
fn copy_matching(from: &Path, to: &Path, fits: impl Fn(&str) -> bool) -> Result<(), String> {
    folder(to)?;
    for entry in std::fs::read_dir(from).map_err(at(from))? {
        let entry = entry.map_err(at(from))?;
        let name = entry.file_name();
        if entry.path().is_file() && name.to_str().is_some_and(&fits) {
            std::fs::copy(entry.path(), to.join(&name)).map_err(at(&entry.path()))?;
        }
    }
    Ok(())
}

/// Copies a folder with everything in it; one that is not there is none.
fn copy_tree(from: &Path, to: &Path) -> Result<(), String> {
    if !from.exists() {
        return Ok(());
    }
    copy_matching(from, to, |_| true)?;
    for entry in std::fs::read_dir(from).map_err(at(from))? {
        let entry = entry.map_err(at(from))?;
        if entry.path().is_dir() {
            copy_tree(&entry.path(), &to.join(entry.file_name()))?;
        }
    }
    Ok(())
}

/// The copies in a folder by their moment, ms since 1970 UTC, the oldest first. Other files and folders are nobody's
/// business here.
#[must_use]
pub fn copies(folder: &Path) -> Vec<(i64, PathBuf)> {
    let Ok(all) = std::fs::read_dir(folder) else {
        return vec![];
    };
    let mut out: Vec<(i64, PathBuf)> = all
        .filter_map(|e| {
            let path = e.ok()?.path();
            let moment = moment_of(path.file_name()?.to_str()?)?;
            Some((moment, path))
        })
        .collect();
    out.sort();
    out
}

fn moment_of(name: &str) -> Option<i64> {
    let text = name.strip_prefix(NAME)?;
    let read = strtime::parse(
        "%Y-%m-%dT%H%M%S%z",
        text.strip_suffix('Z')?.to_owned() + "+0000",
    );
    Some(read.ok()?.to_timestamp().ok()?.as_millisecond())
}

/// Which copies go when they grow old: of the last fortnight every one stays, then the last of each week, after a
/// quarter of a year the last of each thirty days.
#[must_use]
pub fn to_drop(moments: &[i64], now_ms: i64) -> Vec<i64> {
    let span = |ms: i64| match now_ms.saturating_sub(ms) {
        age if age < 14 * DAY => None,
        age if age < 90 * DAY => Some((7, ms.div_euclid(7 * DAY))),
        _ => Some((30, ms.div_euclid(30 * DAY))),
    };
    moments
        .iter()
        .copied()
        .filter(|ms| {
            let own = span(*ms);
            own.is_some() && moments.iter().any(|o| o > ms && span(*o) == own)
        })
        .collect()
}

/// Where copies are put while Ruhe runs, and how often.
#[derive(Debug, Clone)]
pub struct Timetable {
    /// The folder they are put into.
    pub into: PathBuf,
    /// Time between two, ms.
    pub every_ms: i64,
}

impl Timetable {
    /// Makes a copy if the last one is as old as that, and takes away what is too old.
    ///
    /// # Errors
    /// What keeps it from being made or taken away.
    pub fn keep(&self, data: &Path, now_ms: i64) -> Result<(), String> {
        let kept = copies(&self.into);
        // A copy from the future, of a clock that was wrong, is no reason to wait.
        let last = kept.iter().map(|k| k.0).rfind(|ms| *ms <= now_ms);
        if last.is_none_or(|ms| now_ms - ms >= self.every_ms) {
            back_up(data, &self.into, now_ms)?;
        }
        let kept = copies(&self.into);
        let moments: Vec<i64> = kept.iter().map(|k| k.0).collect();
        let old = to_drop(&moments, now_ms);
        for (_, path) in kept.iter().filter(|k| old.contains(&k.0)) {
            std::fs::remove_dir_all(path).map_err(at(path))?;
        }
        Ok(())
    }

    /// Keeps to the timetable as long as Ruhe runs. What could not be copied is told, and tried again.
    pub fn keep_forever(&self, data: &Path) {
        loop {
            if let Err(e) = self.keep(data, now_ms()) {
                tracing::error!("no copy was made into {}: {e}", self.into.display());
            }
            std::thread::sleep(LOOK);
        }
    }
}
