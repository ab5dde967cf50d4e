//! Sites, systems, circuits, surveys, photos, procedures.

use crate::rows::{Circuit, Photo, Site, System};
use crate::schema::{circuits, photos, procedures, sites, surveys, systems};
use crate::{Store, StoreError};
use diesel::prelude::*;

/// A new job, stored whole or not at all.
#[derive(Debug, Clone)]
pub struct NewJob {
    /// Its site; used again if its id is known.
    pub site: Site,
    /// The system.
    pub system: System,
    /// Its circuits, each with the first version of its survey.
    pub circuits: Vec<(Circuit, String)>,
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
            diesel::insert_into(sites::table)
                .values(&job.site)
                .on_conflict_do_nothing()
                .execute(c)?;
            diesel::insert_into(systems::table)
                .values(&job.system)
                .execute(c)?;
            for (circuit, survey) in &job.circuits {
                diesel::insert_into(circuits::table)
                    .values(circuit)
                    .execute(c)?;
                let row = (
                    surveys::circuit_id.eq(&circuit.id),
                    surveys::json.eq(survey),
                    surveys::at_ms.eq(circuit.created_ms),
                );
                diesel::insert_into(surveys::table).values(row).execute(c)?;
            }
            Ok(())
        })
    }

    /// Every site, by name.
    ///
    /// # Errors
    /// Database trouble.
    pub fn sites(&self) -> Result<Vec<Site>, StoreError> {
        Ok(sites::table
            .order(sites::name)
            .load(&mut self.connection()?)?)
    }

    /// Every circuit with its place, oldest first.
    ///
    /// # Errors
    /// Database trouble.
    pub fn circuits(&self) -> Result<Vec<CircuitPlace>, StoreError> {
        let rows: Vec<(Circuit, (System, Site))> = circuits::table
            .inner_join(systems::table.inner_join(sites::table))
            .order((circuits::created_ms, circuits::tag))
            .select((
                Circuit::as_select(),
                (System::as_select(), Site::as_select()),
            ))
            .load(&mut self.connection()?)?;
        Ok(rows
            .into_iter()
            .map(|(circuit, (system, site))| CircuitPlace {
                circuit,
                system,
                site,
            })
            .collect())
    }

    /// One circuit with its place.
    ///
    /// # Errors
    /// If there is none.
    pub fn circuit(&self, id: &str) -> Result<CircuitPlace, StoreError> {
        let row: Option<(Circuit, (System, Site))> = circuits::table
            .inner_join(systems::table.inner_join(sites::table))
            .filter(circuits::id.eq(id))
            .select((
                Circuit::as_select(),
                (System::as_select(), Site::as_select()),
            ))
            .first(&mut self.connection()?)
            .optional()?;
        row.map(|(circuit, (system, site))| CircuitPlace {
            circuit,
            system,
            site,
        })
        .ok_or(StoreError::Missing("circuit"))
    }

    /// The newest version of a circuit's survey, and how many versions there are.
    ///
    /// # Errors
    /// Database trouble.
    pub fn survey(&self, circuit: &str) -> Result<(Option<String>, i64), StoreError> {
        let mut c = self.connection()?;
        let of = || surveys::table.filter(surveys::circuit_id.eq(circuit));
        Ok((
            of().order(surveys::seq.desc())
                .select(surveys::json)
                .first(&mut c)
                .optional()?,
            of().count().get_result(&mut c)?,
        ))
    }

    /// Adds a version of a survey, unless somebody else added one since `version`.
    ///
    /// # Errors
    /// If the circuit is signed or the survey was changed meanwhile.
    pub fn add_survey(
        &self,
        circuit: &str,
        json: &str,
        version: i64,
        at_ms: i64,
    ) -> Result<(), StoreError> {
        self.connection()?.immediate_transaction(|c| {
            let now: i64 = surveys::table
                .filter(surveys::circuit_id.eq(circuit))
                .count()
                .get_result(c)?;
            if now != version {
                return Err(StoreError::Conflict(
                    "the survey was changed on another device meanwhile; load it again".into(),
                ));
            }
            diesel::insert_into(surveys::table)
                .values((
                    surveys::circuit_id.eq(circuit),
                    surveys::json.eq(json),
                    surveys::at_ms.eq(at_ms),
                ))
                .execute(c)?;
            Ok(())
        })
    }

    /// Stores a photo.
    ///
    /// # Errors
    /// If the circuit is signed.
    pub fn add_photo(&self, row: &Photo) -> Result<(), StoreError> {
        diesel::insert_into(photos::table)
            .values(row)
            .execute(&mut self.connection()?)?;
        Ok(())
    }

    /// A photo.
    ///
    /// # Errors
    /// If there is none.
    pub fn photo(&self, id: &str) -> Result<Photo, StoreError> {
        photos::table
            .filter(photos::id.eq(id))
            .first(&mut self.connection()?)
            .optional()?
            .ok_or(StoreError::Missing("photo"))
    }

    /// Stores a version of a procedure.
    ///
    /// # Errors
    /// Database trouble.
    pub fn add_procedure(&self, code: &str, json: &str, at_ms: i64) -> Result<(), StoreError> {
        let row = (
            procedures::code.eq(code),
            procedures::json.eq(json),
            procedures::at_ms.eq(at_ms),
        );
        diesel::insert_into(procedures::table)
            .values(row)
            .execute(&mut self.connection()?)?;
        Ok(())
    }

    /// Every version of every procedure, oldest first: code, document.
    ///
    /// # Errors
    /// Database trouble.
    pub fn procedures(&self) -> Result<Vec<(String, String)>, StoreError> {
        Ok(procedures::table
            .order(procedures::seq)
            .select((procedures::code, procedures::json))
            .load(&mut self.connection()?)?)
    }
}
