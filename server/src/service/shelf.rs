//! Jobs, the kit and procedures: acts that touch more than one log, each in one transaction.

use super::act::Said;
use crate::error::ApiError;
use crate::state::AppState;
use ruhe_job::act::{JobInput, keep_kit, keep_procedure, open_job, photo, shelf};
use ruhe_job::kit::{KitDoc, KitKind};
use ruhe_job::log::{Chain, Deed, KIT, PROCEDURES, SITES, Who};
use ruhe_job::tell::ProcedureInput;
use ruhe_store::{Tx, rows};

impl AppState {
    /// Takes a job on. Returns the ids of its circuits.
    pub fn open(&self, b: &JobInput, said: &Said) -> Result<Vec<String>, ApiError> {
        let who = said.who();
        let now = self.now_ms();
        self.write_for(said, |tx| {
            let known = match &b.site_id {
                Some(id) => tx.sites()?.into_iter().find(|s| s.id == *id),
                None => None,
            };
            let job = open_job(b, known.map(|s| (s.name, s.place)), &who.id)?;
            let ids: Vec<String> = job.circuits.iter().map(|c| c.0.clone()).collect();
            if let Some(first) = ids.first()
                && tx.entry(first)?.is_some()
            {
                return Ok(ids);
            }
            put_sites(tx, &job.site)?;
            let mut chain = self.chain(tx, SITES)?;
            let site_id = format!("{}.kept", who.id);
            self.append(tx, &mut chain, &named(&who, &site_id), now, job.site)?;
            for (id, deeds) in job.circuits {
                self.begin(tx, &id, &who, now, deeds)?;
            }
            Ok(ids)
        })
    }

    /// Begins the log of a circuit.
    fn begin(
        &self,
        tx: &mut Tx<'_>,
        id: &str,
        who: &Who,
        now: i64,
        deeds: Vec<Deed>,
    ) -> Result<(), ApiError> {
        self.append(tx, &mut Chain::empty(id), &named(who, id), now, deeds)?;
        self.follow(tx, id)
    }

    /// Keeps a photo for the kit. Returns its id.
    pub fn keep_certificate(&self, bytes: &[u8], said: &Said) -> Result<String, ApiError> {
        let who = said.who();
        let now = self.now_ms();
        self.write_for(said, |tx| {
            if let Some(known) = tx.entry(&who.id)? {
                return Ok(known.id);
            }
            self.kept(tx, KIT)?;
            let deeds = photo(bytes)?;
            for d in &deeds {
                if let Deed::PhotoTaken { mime, .. } = d {
                    tx.add_photo(&rows::Photo {
                        id: who.id.clone(),
                        circuit: KIT.into(),
                        mime: mime.clone(),
                        bytes: bytes.to_vec(),
                    })?;
                }
            }
            let mut chain = self.kit(tx)?.chain;
            self.append(tx, &mut chain, &who, now, deeds)?;
            Ok(who.id.clone())
        })
    }

    /// Keeps a thing of the kit; without an id it is a new one. Returns its id.
    pub fn keep_kit(&self, id: Option<&str>, doc: KitDoc, said: &Said) -> Result<String, ApiError> {
        let who = said.who();
        let now = self.now_ms();
        self.write_for(said, |tx| {
            if let Some(known) = tx.entry(&who.id)? {
                return Ok(id.map_or(known.id, Into::into));
            }
            self.kept(tx, KIT)?;
            let kit = self.kit(tx)?;
            if id.is_some_and(|id| kit.find(id).is_none()) {
                return Err(ApiError::Missing(
                    "there is no such thing of the kit".into(),
                ));
            }
            let item = id.map_or_else(|| who.id.clone(), Into::into);
            let (is_new_rig, name) = (id.is_none() && doc.kind == KitKind::Rig, doc.name.clone());
            let deeds = keep_kit(&kit, &item, doc)?;
            let begun = shelf(&kit, &name);
            let mut chain = kit.chain;
            self.append(tx, &mut chain, &who, now, deeds)?;
            if is_new_rig {
                let opened = Who {
                    id: format!("{item}.rig"),
                    ..who.clone()
                };
                self.append(tx, &mut Chain::empty(&item), &opened, now, begun)?;
                self.follow(tx, &item)?;
            }
            Ok(item)
        })
    }

    /// Keeps a procedure of one's own. Returns the id of the entry.
    pub fn keep_procedure(&self, p: ProcedureInput, said: &Said) -> Result<String, ApiError> {
        let who = said.who();
        self.write_for(said, |tx| {
            if tx.entry(&who.id)?.is_none() {
                let deeds = keep_procedure(p)?;
                let mut chain = self.chain(tx, PROCEDURES)?;
                self.append(tx, &mut chain, &who, self.now_ms(), deeds)?;
            }
            Ok(who.id.clone())
        })
    }
}

/// Writes the sites that these deeds keep.
pub(super) fn put_sites<'a>(
    tx: &mut Tx<'_>,
    deeds: impl IntoIterator<Item = &'a Deed>,
) -> Result<(), ApiError> {
    for d in deeds {
        if let Deed::SiteKept { site, name, place } = d {
            tx.put_site(&rows::Site {
                id: site.clone(),
                name: name.clone(),
                place: place.clone(),
            })?;
        }
    }
    Ok(())
}

fn named(who: &Who, id: &str) -> Who {
    Who {
        id: id.into(),
        ..who.clone()
    }
}
