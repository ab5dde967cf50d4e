//! The leak search: looks and repairs.

use crate::rows::{Look, Repair};
use crate::schema::{looks, repairs};
use crate::{Store, StoreError};
use diesel::prelude::*;

impl Store {
    /// Stores a look.
    ///
    /// # Errors
    /// If the circuit is signed, or the photo is not known.
    pub fn add_look(&self, row: &Look) -> Result<(), StoreError> {
        diesel::insert_into(looks::table)
            .values(row)
            .execute(&mut self.connection()?)?;
        Ok(())
    }

    /// A circuit's looks in time order.
    ///
    /// # Errors
    /// Database trouble.
    pub fn looks(&self, circuit: &str) -> Result<Vec<Look>, StoreError> {
        Ok(looks::table
            .filter(looks::circuit_id.eq(circuit))
            .order(looks::at_ms)
            .load(&mut self.connection()?)?)
    }

    /// Stores a repair.
    ///
    /// # Errors
    /// If the circuit is signed.
    pub fn add_repair(&self, row: &Repair) -> Result<(), StoreError> {
        diesel::insert_into(repairs::table)
            .values(row)
            .execute(&mut self.connection()?)?;
        Ok(())
    }

    /// A circuit's repairs in time order.
    ///
    /// # Errors
    /// Database trouble.
    pub fn repairs(&self, circuit: &str) -> Result<Vec<Repair>, StoreError> {
        Ok(repairs::table
            .filter(repairs::circuit_id.eq(circuit))
            .order(repairs::at_ms)
            .load(&mut self.connection()?)?)
    }
}
