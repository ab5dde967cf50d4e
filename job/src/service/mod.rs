//! One service for every door: what becomes of what somebody says or asks, whether the logs lie in a database or on a
//! phone.
//!
//! The rules in `act` decide from a circuit, the views in `tell` show one. The service finds the circuit, answers a
//! repeated id as the first time, appends, and judges again what that bears on. Who keeps the logs is a [`Keeper`].

mod keep;
mod see;
mod verb;

pub use keep::{Acted, decide, end, judged, mark, plan, read, start_clock, strike_reading};
pub use see::{again, circuit, record, table, test};
pub use verb::{TestVerb, VERBS, Verb, Word, body, said};

use crate::kit::InUse;
use crate::log::{Chain, Deed, ReadingLine, Seal, Who};
use crate::refusal::Refusal;
use crate::state::{Circuit, KitState, Now, Procedures, Test};
use crate::tell::Wanted;
use std::sync::Arc;

/// Who keeps logs and readings: a transaction of a database, or what a phone took along.
pub trait Keeper {
    /// What goes wrong.
    type Error: From<Refusal>;

    /// A circuit, its running tests shown by their readings.
    ///
    /// # Errors
    /// If it is not here, or not as it was kept.
    fn circuit(&mut self, id: &str) -> Result<Circuit, Self::Error>;
    /// The same for those who do not ask what running tests show.
    ///
    /// # Errors
    /// As [`Self::circuit`].
    fn folded(&mut self, id: &str) -> Result<Arc<Circuit>, Self::Error>;
    /// The circuit a test belongs to.
    ///
    /// # Errors
    /// If it is not here.
    fn circuit_of(&mut self, test: &str) -> Result<String, Self::Error>;
    /// The log that holds an entry of this id.
    ///
    /// # Errors
    /// What reading may meet.
    fn log_with(&mut self, entry: &str) -> Result<Option<String>, Self::Error>;
    /// The circuit of a rig, if it is here.
    ///
    /// # Errors
    /// What reading may meet.
    fn rig(&mut self, id: &str) -> Result<Option<Circuit>, Self::Error>;
    /// The kit.
    ///
    /// # Errors
    /// What reading may meet.
    fn kit(&mut self) -> Result<KitState, Self::Error>;
    /// Procedures of one's own.
    ///
    /// # Errors
    /// What reading may meet.
    fn procedures(&mut self) -> Result<Procedures, Self::Error>;
    /// What of the kit is on which circuit.
    ///
    /// # Errors
    /// What reading may meet.
    fn in_use(&mut self) -> Result<Vec<InUse>, Self::Error>;
    /// A reading with its test, if it is here.
    ///
    /// # Errors
    /// What reading may meet.
    fn reading(&mut self, id: &str) -> Result<Option<(String, ReadingLine)>, Self::Error>;
    /// The latest readings of a test, the newest first.
    ///
    /// # Errors
    /// What reading may meet.
    fn latest(&mut self, test: &str, most: usize) -> Result<Vec<ReadingLine>, Self::Error>;
    /// Those of a test that a table asks for, the newest first.
    ///
    /// # Errors
    /// What reading may meet.
    fn wanted(&mut self, test: &str, wanted: &Wanted) -> Result<Vec<ReadingLine>, Self::Error>;
    /// What is found about all readings of a test, and their seal.
    ///
    /// # Errors
    /// What reading may meet.
    fn judged(&mut self, t: &Test) -> Result<(Arc<Now>, Seal), Self::Error>;

    /// Appends to a log.
    ///
    /// # Errors
    /// If it could not be read back.
    fn append(
        &mut self,
        chain: &mut Chain,
        who: &Who,
        now_ms: i64,
        deeds: Vec<Deed>,
    ) -> Result<(), Self::Error>;
    /// Adds readings to a test; those that are here already are counted.
    ///
    /// # Errors
    /// If the test is closed.
    fn add_readings(&mut self, test: &str, lines: &[ReadingLine]) -> Result<Added, Self::Error>;
    /// A reading that stands for one that is struck out: its test may have ended.
    ///
    /// # Errors
    /// What writing may meet.
    fn correct_reading(&mut self, test: &str, line: &ReadingLine) -> Result<(), Self::Error>;
    /// A circuit was added to: what is derived from its log follows.
    ///
    /// # Errors
    /// What writing may meet.
    fn follow(&mut self, _circuit: &str) -> Result<(), Self::Error> {
        Ok(())
    }
    /// Stands up for a circuit that is about to be shown; for all that a record prints of it, if `whole`.
    ///
    /// # Errors
    /// If it is not as it was kept.
    fn vouch(&mut self, _c: &Circuit, _whole: bool) -> Result<(), Self::Error> {
        Ok(())
    }
}

/// How many of some readings were new.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Added {
    /// New ones.
    pub new: usize,
    /// Those that were here.
    pub known: usize,
}
