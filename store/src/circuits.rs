//! Sites, systems, circuits, plates.

use crate::rows::{Circuit, Plate, Site, System};
use crate::schema::{circuits, plates, sites, systems};
use crate::{Store, StoreError};
use diesel::prelude::*;

/// A new job, stored whole or not at all.
#[derive(Debug, Clone)]
pub struct NewJob {
    /// Its site; used again if its id is known.
    pub site: Site,
    /// The system.
    pub system: System,
    /// Its circuits with their plates.
    pub circuits: Vec<(Circuit, Vec<Plate>)>,
}

/// A circuit and where it is.
#[derive(Debug, Clone)]
pub struct CircuitPlace {
    /// The circuit.
    pub circuit: Circuit,
    /// Its system.
    pub system: System,
    /// Its site.
    pub site: Site,
}

impl Store {
    /// Stores a job.
    ///
    /// # Errors
    /// Database trouble.
    pub fn add_job(&self, job: &NewJob) -> Result<(), StoreError> {
        self.connection()?.immediate_transaction(|c| {
            diesel::insert_into(sites::table).values(&job.site).on_conflict_do_nothing().execute(c)?;
            diesel::insert_into(systems::table).values(&job.system).execute(c)?;
            for (circuit, its_plates) in &job.circuits {
                diesel::insert_into(circuits::table).values(circuit).execute(c)?;
                diesel::insert_into(plates::table).values(its_plates).execute(c)?;
            }
            Ok(())
        })
    }

    /// Every site, by name.
    ///
    /// # Errors
    /// Database trouble.
    pub fn sites(&self) -> Result<Vec<Site>, StoreError> {
        Ok(sites::table.order(sites::name).load(&mut self.connection()?)?)
    }

    /// Every circuit with its place, oldest first.
    ///
    /// # Errors
    /// Database trouble.
    pub fn circuits(&self) -> Result<Vec<CircuitPlace>, StoreError> {
        let rows: Vec<(Circuit, (System, Site))> = circuits::table
            .inner_join(systems::table.inner_join(sites::table))
            .order((circuits::created_ms, circuits::tag))
            .select((Circuit::as_select(), (System::as_select(), Site::as_select())))
            .load(&mut self.connection()?)?;
        Ok(rows.into_iter().map(|(circuit, (system, site))| CircuitPlace { circuit, system, site }).collect())
    }

    /// One circuit with its place.
    ///
    /// # Errors
    /// If there is none.
    pub fn circuit(&self, id: &str) -> Result<CircuitPlace, StoreError> {
        let row: Option<(Circuit, (System, Site))> = circuits::table
            .inner_join(systems::table.inner_join(sites::table))
            .filter(circuits::id.eq(id))
            .select((Circuit::as_select(), (System::as_select(), Site::as_select())))
            .first(&mut self.connection()?)
            .optional()?;
        row.map(|(circuit, (system, site))| CircuitPlace { circuit, system, site }).ok_or(StoreError::Missing("circuit"))
    }

    /// A circuit's plates.
    ///
    /// # Errors
    /// Database trouble.
    pub fn plates(&self, circuit: &str) -> Result<Vec<Plate>, StoreError> {
        Ok(plates::table.filter(plates::circuit_id.eq(circuit)).order(plates::part).load(&mut self.connection()?)?)
    }
}
