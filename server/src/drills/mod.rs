//! Drills: each is a small Ruhe of its own, with a store, a key and a clock apart, behind `/drill/ID/api/…`.
//!
//! Nothing of a drill can get among the jobs, because nothing of it is where the jobs are. The truth stays here until
//! the drill is over: only what a gauge shows goes out.

mod debrief;
mod feed;
mod here;
mod kept;
mod one;
mod view;

pub use here::{Here, InDrill, into_drill};
pub use kept::{Kept, Learner};
pub use one::Drill;
pub use view::{ActInput, BeginInput, DrillView, DrillsView, drill_view, drills_view};

use crate::error::ApiError;
use crate::key::keep_secret;
use crate::lock::lock;
use crate::people::random_seed;
use crate::service::fresh_id;
use crate::state::AppState;
use ruhe_drill::{Level, Scenario, all};
use std::collections::HashMap;
use std::path::{Path, PathBuf};
use std::sync::{Arc, Mutex};

/// Most drills of one's own that a teacher keeps.
const OWN: usize = 200;
/// Most drills that were begun.
const BEGUN: usize = 300;

/// Drills that somebody looks at, by id.
type Open = Arc<Mutex<HashMap<String, Arc<Drill>>>>;

/// A drill that a teacher made or took in, and who that was.
#[derive(serde::Serialize, serde::Deserialize)]
struct Made {
    scenario: Scenario,
    /// Id of the person; none: nobody was known.
    by: Option<String>,
}

/// All drills of a data folder.
pub struct Drills {
    folder: PathBuf,
    open: Open,
}

/// Nothing but letters, digits and dashes: an id becomes the name of a folder.
fn is_id(id: &str) -> bool {
    !id.is_empty() && id.len() <= 64 && id.chars().all(|c| c.is_ascii_alphanumeric() || c == '-')
}

fn missing() -> ApiError {
    ApiError::Missing("there is no such drill".into())
}

fn names(folder: &Path) -> Vec<String> {
    let Ok(all) = std::fs::read_dir(folder) else {
        return vec![];
    };
    let mut out: Vec<String> = all
        .filter_map(|e| e.ok()?.file_name().into_string().ok())
        .collect();
    out.sort();
    out
}

impl Drills {
    /// Those of a data folder, in one of their own beside the database, which is made when it is needed.
    #[must_use]
    pub fn beside(data: &Path) -> Self {
        Self {
            folder: data.join("drills"),
            open: Open::default(),
        }
    }

    /// Begins a drill for somebody.
    pub fn begin(
        &self,
        main: &AppState,
        b: &BeginInput,
        who: Learner,
    ) -> Result<Arc<Drill>, ApiError> {
        if self.kept().len() >= BEGUN {
            let words = format!("there are {BEGUN} drills here already: forget some first");
            return Err(ApiError::Conflict(words));
        }
        let scenario = match (&b.own, b.number) {
            (Some(id), _) => self.own(id)?,
            (None, n) => all()
                .into_iter()
                .find(|s| s.number == n)
                .ok_or_else(|| ApiError::wrong("number", format!("there is no drill {n}")))?,
        };
        // From nowhere that a learner sees: figures of an exam do not follow from when it began.
        let seed = random_seed()?;
        let scenario = match b.level {
            Level::Exam => scenario.varied(seed),
            Level::Words | Level::Gauges => scenario,
        };
        let id = fresh_id();
        let drill = Arc::new(Drill::begin(
            main,
            &self.folder.join(&id),
            &id,
            scenario,
            b.level,
            who,
        )?);
        lock(&self.open).insert(id, drill.clone());
        one::keep_going(&drill, &self.open);
        Ok(drill)
    }

    /// Throws a drill away, with all that was worked in it.
    pub fn forget(&self, id: &str) -> Result<(), ApiError> {
        if !is_id(id) || !self.folder.join(id).join(kept::FILE).exists() {
            return Err(missing());
        }
        lock(&self.open).remove(id);
        std::fs::remove_dir_all(self.folder.join(id)).map_err(|e| ApiError::Inside(e.to_string()))
    }

    /// A drill that was begun.
    pub fn get(&self, main: &AppState, id: &str) -> Result<Arc<Drill>, ApiError> {
        if !is_id(id) {
            return Err(missing());
        }
        let mut open = lock(&self.open);
        if let Some(d) = open.get(id) {
            return Ok(d.clone());
        }
        let folder = self.folder.join(id);
        if !folder.join(kept::FILE).exists() {
            return Err(missing());
        }
        let drill = Arc::new(Drill::load(main, &folder)?);
        open.insert(id.into(), drill.clone());
        one::keep_going(&drill, &self.open);
        Ok(drill)
    }

    /// What is kept of every drill, the latest first.
    pub fn kept(&self) -> Vec<Kept> {
        let mut out: Vec<Kept> = names(&self.folder)
            .iter()
            .filter_map(|id| Kept::load(&self.folder.join(id)).ok())
            .collect();
        out.sort_by_key(|k| std::cmp::Reverse(k.begun_ms));
        out
    }

    fn own_folder(&self) -> PathBuf {
        self.folder.join("own")
    }

    /// Drills that were made here: id, scenario, and who made it.
    pub fn all_own(&self) -> Vec<(String, Scenario, Option<String>)> {
        names(&self.own_folder())
            .iter()
            .filter_map(|f| f.strip_suffix(".json"))
            .filter_map(|id| {
                let made = self.made(id).ok()?;
                Some((id.to_owned(), made.scenario, made.by))
            })
            .collect()
    }

    /// The file of one, with its truth: for whoever made it.
    ///
    /// # Errors
    /// If it is somebody else's.
    pub fn file_of(&self, id: &str, person: Option<&str>) -> Result<Scenario, ApiError> {
        let made = self.made(id)?;
        if made.by.as_deref() == person {
            Ok(made.scenario)
        } else {
            Err(ApiError::Forbidden(
                "this drill was made by somebody else: its file tells what is hidden".into(),
            ))
        }
    }

    /// One of them, to begin it.
    pub fn own(&self, id: &str) -> Result<Scenario, ApiError> {
        Ok(self.made(id)?.scenario)
    }

    fn made(&self, id: &str) -> Result<Made, ApiError> {
        if !is_id(id) {
            return Err(missing());
        }
        let text = std::fs::read_to_string(self.own_folder().join(format!("{id}.json")))
            .map_err(|_| missing())?;
        serde_json::from_str(&text).map_err(|e| ApiError::Inside(e.to_string()))
    }

    /// Keeps a drill that a teacher made or handed out.
    pub fn add_own(&self, mut scenario: Scenario, by: Option<String>) -> Result<String, ApiError> {
        scenario
            .check()
            .map_err(|(field, why)| ApiError::wrong(field, why))?;
        if self.all_own().len() >= OWN {
            return Err(ApiError::Conflict(format!(
                "there are {OWN} drills of your own already"
            )));
        }
        scenario.number = 0;
        let id = fresh_id();
        let inside = |e: std::io::Error| ApiError::Inside(e.to_string());
        ruhe_store::folder_for_the_owner_alone(&self.own_folder()).map_err(inside)?;
        let made = Made { scenario, by };
        let text =
            serde_json::to_string_pretty(&made).map_err(|e| ApiError::Inside(e.to_string()))?;
        let at = self.own_folder().join(format!("{id}.json"));
        keep_secret(&at, text.as_bytes()).map_err(ApiError::Inside)?;
        Ok(id)
    }
}
