//! Which gauge is read into which channel of a test, until that ends.

use super::act::Said;
use crate::error::ApiError;
use crate::state::AppState;
use ruhe_job::kit::{KitDoc, SentBy, sent_into};
use ruhe_job::log::HouseDeed;
use ruhe_job::state::Test;
use ruhe_store::{Tx, rows};

/// The place of a channel of a test.
pub fn place(t: &Test, channel: &str) -> Result<usize, ApiError> {
    t.channels
        .iter()
        .position(|x| x.id == channel)
        .ok_or_else(|| ApiError::Missing("there is no such channel".into()))
}

impl AppState {
    /// Reads a sensor into a channel of a test, by its place.
    pub fn bind(
        &self,
        tx: &mut Tx<'_>,
        row: &rows::Test,
        test: &Test,
        (at, by): (usize, SentBy),
        said: &Said,
    ) -> Result<(), ApiError> {
        tx.bind(&rows::Binding {
            gauge: by.gauge.clone(),
            source: by.source.clone(),
            test: row.n,
            channel: i32::try_from(at).unwrap_or(0),
        })?;
        let channel = test.channels.get(at).map(|c| c.id.clone());
        let done = HouseDeed::GaugeBound {
            gauge: by.gauge,
            source: by.source,
            test: test.id.clone(),
            channel: channel.unwrap_or_default(),
        };
        self.note_house(tx, said, done)
    }

    /// Reads a channel by hand again.
    pub fn unbind(&self, test: &str, channel: &str, said: &Said) -> Result<String, ApiError> {
        self.write_for(said, |tx| {
            let row = tx.test(test)?;
            let c = self.folded(tx, &row.circuit)?;
            let at = place(c.must_have(test)?, channel)?;
            tx.unbind(row.n, Some(i32::try_from(at).unwrap_or(0)))?;
            let done = HouseDeed::GaugeUnbound {
                test: test.into(),
                channel: channel.into(),
            };
            self.note_house(tx, said, done)?;
            Ok(row.circuit)
        })
    }

    /// Reads the gauges of the kit that a test was planned with into it, where they send by themselves and are free.
    /// What leaves a choice is left to a person.
    pub fn listen_to_kit(&self, test: &str, said: &Said) -> Result<(), ApiError> {
        let wanted = self.store.read(|tx| self.sends_into(tx, test))?;
        if wanted.is_empty() {
            return Ok(());
        }
        self.write_for(said, |tx| {
            let row = tx.test(test)?;
            let c = self.folded(tx, &row.circuit)?;
            let t = c.must_have(test)?;
            for (at, by) in wanted {
                // A sensor stays where it was last read until it is wanted elsewhere; only what still runs keeps it.
                let of = tx.bindings(&by.gauge)?;
                let is_taken = match of.iter().find(|b| b.source == by.source) {
                    Some(b) => tx.test_of(b.test)?.is_open,
                    None => false,
                };
                let is_known = tx.gauges()?.iter().any(|g| g.id == by.gauge);
                if is_known && !is_taken && !t.is_over() {
                    self.bind(tx, &row, t, (at, by), said)?;
                }
            }
            Ok(())
        })
    }

    fn sends_into(&self, tx: &mut Tx<'_>, test: &str) -> Result<Vec<(usize, SentBy)>, ApiError> {
        let row = tx.test(test)?;
        let c = self.folded(tx, &row.circuit)?;
        let t = c.must_have(test)?;
        let kit = self.kit(tx)?;
        let used: Vec<KitDoc> = t
            .plan
            .kit
            .iter()
            .filter_map(|id| Some(kit.find(id)?.doc.clone()))
            .collect();
        Ok(sent_into(&used, &t.channels))
    }
}
