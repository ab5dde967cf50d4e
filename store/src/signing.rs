//! Steps, overrides, signatures.

use crate::rows::{Override, Signature, Step};
use crate::schema::{overrides, signatures, steps};
use crate::{Store, StoreError};
use diesel::prelude::*;

impl Store {
    /// Stores a confirmed step.
    ///
    /// # Errors
    /// If the circuit is signed.
    pub fn add_step(&self, row: &Step) -> Result<(), StoreError> {
        diesel::insert_into(steps::table)
            .values(row)
            .execute(&mut self.connection()?)?;
        Ok(())
    }

    /// A circuit's steps in time order.
    ///
    /// # Errors
    /// Database trouble.
    pub fn steps(&self, circuit: &str) -> Result<Vec<Step>, StoreError> {
        Ok(steps::table
            .filter(steps::circuit_id.eq(circuit))
            .order(steps::at_ms)
            .load(&mut self.connection()?)?)
    }

    /// Stores an override of a gate.
    ///
    /// # Errors
    /// If the circuit is signed.
    pub fn add_override(&self, row: &Override) -> Result<(), StoreError> {
        diesel::insert_into(overrides::table)
            .values(row)
            .execute(&mut self.connection()?)?;
        Ok(())
    }

    /// A circuit's overrides in time order.
    ///
    /// # Errors
    /// Database trouble.
    pub fn overrides(&self, circuit: &str) -> Result<Vec<Override>, StoreError> {
        Ok(overrides::table
            .filter(overrides::circuit_id.eq(circuit))
            .order(overrides::at_ms)
            .load(&mut self.connection()?)?)
    }

    /// Signs a circuit.
    ///
    /// # Errors
    /// If it is signed already.
    pub fn sign(&self, row: &Signature) -> Result<(), StoreError> {
        self.connection()?.immediate_transaction(|c| {
            let signed: i64 = signatures::table
                .filter(signatures::circuit_id.eq(&row.circuit_id))
                .count()
                .get_result(c)?;
            if signed > 0 {
                return Err(StoreError::Closed("this circuit is signed and read-only"));
            }
            diesel::insert_into(signatures::table)
                .values(row)
                .execute(c)?;
            Ok(())
        })
    }

    /// A circuit's signature.
    ///
    /// # Errors
    /// Database trouble.
    pub fn signature(&self, circuit: &str) -> Result<Option<Signature>, StoreError> {
        Ok(signatures::table
            .filter(signatures::circuit_id.eq(circuit))
            .first(&mut self.connection()?)
            .optional()?)
    }
}
