//! The kit and the procedures of one's own: documents with versions, the last of each being what it is now.

use crate::kit::KitDoc;
use crate::log::{Chain, Deed, Entry};
use crate::plan::OwnProcedure;

/// A thing of the kit as it is now.
#[derive(Debug, Clone)]
pub struct KitThing {
    /// Its id.
    pub id: String,
    /// What it is.
    pub doc: KitDoc,
    /// When it was last changed, ms since 1970 UTC.
    pub changed_ms: i64,
}

/// The kit, in the order things were first registered.
#[derive(Debug, Clone)]
pub struct KitState {
    /// All of it.
    pub things: Vec<KitThing>,
    /// Ids of photos that were taken for it.
    pub photos: Vec<String>,
    /// The end of its log.
    pub chain: Chain,
}

impl KitState {
    /// Folds the log of the kit.
    #[must_use]
    pub fn fold(entries: Vec<Entry>, chain: Chain) -> Self {
        let mut things: Vec<KitThing> = Vec::new();
        let mut photos = Vec::new();
        for e in entries {
            if matches!(e.deed, Deed::PhotoTaken { .. }) {
                photos.push(e.id.clone());
            }
            if let Deed::KitKept { item, doc } = e.deed {
                let thing = KitThing {
                    id: item,
                    doc,
                    changed_ms: e.kept_ms,
                };
                match things.iter_mut().find(|t| t.id == thing.id) {
                    Some(t) => *t = thing,
                    None => things.push(thing),
                }
            }
        }
        Self {
            things,
            photos,
            chain,
        }
    }
    /// One of its things.
    #[must_use]
    pub fn find(&self, id: &str) -> Option<&KitThing> {
        self.things.iter().find(|t| t.id == id)
    }
}

/// Procedures of one's own: code, version, document.
#[derive(Debug, Clone)]
pub struct Procedures {
    /// The newest of each.
    pub own: Vec<OwnProcedure>,
    /// The end of their log.
    pub chain: Chain,
}

impl Procedures {
    /// Folds the log of the procedures.
    #[must_use]
    pub fn fold(entries: Vec<Entry>, chain: Chain) -> Self {
        let mut own: Vec<OwnProcedure> = Vec::new();
        for e in entries {
            if let Deed::ProcedureKept { code, procedure } = e.deed {
                let version = own.iter().find(|o| o.0 == code).map_or(1, |o| o.1 + 1);
                own.retain(|o| o.0 != code);
                own.push((code, version, procedure));
            }
        }
        Self { own, chain }
    }
}
