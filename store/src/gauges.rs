//! Gauges that send by themselves, and where what they send belongs.

use crate::rows::{Binding, Gauge, Simulated, Test};
use crate::schema::{bindings, gauges, simulated, tests};
use crate::{StoreError, Tx};
use diesel::prelude::*;

impl Tx<'_> {
    /// Gauges that may send, by name.
    ///
    /// # Errors
    /// Database trouble.
    pub fn gauges(&mut self) -> Result<Vec<Gauge>, StoreError> {
        Ok(gauges::table
            .filter(gauges::is_out.eq(false))
            .order(gauges::name)
            .select(Gauge::as_select())
            .load(self.0)?)
    }

    /// The gauge of a token, if it was not shut out.
    ///
    /// # Errors
    /// Database trouble.
    pub fn gauge_of(&mut self, token: &str) -> Result<Option<Gauge>, StoreError> {
        Ok(gauges::table
            .filter(gauges::token.eq(token))
            .filter(gauges::is_out.eq(false))
            .select(Gauge::as_select())
            .first(self.0)
            .optional()?)
    }

    /// Lets a gauge in.
    ///
    /// # Errors
    /// If another has its name.
    pub fn add_gauge(&mut self, row: &Gauge) -> Result<(), StoreError> {
        diesel::insert_into(gauges::table)
            .values(row)
            .execute(self.0)?;
        Ok(())
    }

    /// Gives a gauge another token.
    ///
    /// # Errors
    /// Database trouble.
    pub fn renew_gauge(&mut self, id: &str, token: &str) -> Result<(), StoreError> {
        diesel::update(gauges::table.find(id))
            .set(gauges::token.eq(token))
            .execute(self.0)?;
        Ok(())
    }

    /// Notes when a gauge sent last.
    ///
    /// # Errors
    /// Database trouble.
    pub fn gauge_seen(&mut self, id: &str, now: i64) -> Result<(), StoreError> {
        diesel::update(gauges::table.find(id))
            .set(gauges::seen_ms.eq(now))
            .execute(self.0)?;
        Ok(())
    }

    /// Shuts a gauge out: its token opens nothing any more, its name is free.
    ///
    /// # Errors
    /// If there is none.
    pub fn shut_gauge_out(&mut self, id: &str) -> Result<(), StoreError> {
        diesel::delete(bindings::table.filter(bindings::gauge.eq(id))).execute(self.0)?;
        let gone: Option<String> = gauges::table
            .find(id)
            .filter(gauges::is_out.eq(false))
            .select(gauges::name)
            .first(self.0)
            .optional()?;
        let name = gone.ok_or(StoreError::Missing("gauge"))?;
        diesel::update(gauges::table.find(id))
            .set((
                gauges::is_out.eq(true),
                gauges::name.eq(format!("{name} ({id})")),
            ))
            .execute(self.0)?;
        Ok(())
    }

    /// Reads a source of a gauge into a channel, instead of wherever it was read into before.
    ///
    /// # Errors
    /// Database trouble.
    pub fn bind(&mut self, row: &Binding) -> Result<(), StoreError> {
        diesel::delete(
            bindings::table
                .filter(bindings::test.eq(row.test))
                .filter(bindings::channel.eq(row.channel)),
        )
        .execute(self.0)?;
        diesel::insert_into(bindings::table)
            .values(row)
            .on_conflict((bindings::gauge, bindings::source))
            .do_update()
            .set(row)
            .execute(self.0)?;
        Ok(())
    }

    /// What a gauge's sources are read into.
    ///
    /// # Errors
    /// Database trouble.
    pub fn bindings(&mut self, gauge: &str) -> Result<Vec<Binding>, StoreError> {
        Ok(bindings::table
            .filter(bindings::gauge.eq(gauge))
            .select(Binding::as_select())
            .load(self.0)?)
    }

    /// What is read into a test.
    ///
    /// # Errors
    /// Database trouble.
    pub fn bound_to(&mut self, test: i64) -> Result<Vec<Binding>, StoreError> {
        Ok(bindings::table
            .filter(bindings::test.eq(test))
            .select(Binding::as_select())
            .load(self.0)?)
    }

    /// Reads nothing into a test any more, or nothing into one channel of it.
    ///
    /// # Errors
    /// Database trouble.
    pub fn unbind(&mut self, test: i64, channel: Option<i32>) -> Result<(), StoreError> {
        match channel {
            None => {
                diesel::delete(bindings::table.filter(bindings::test.eq(test))).execute(self.0)?
            }
            Some(c) => diesel::delete(
                bindings::table
                    .filter(bindings::test.eq(test))
                    .filter(bindings::channel.eq(c)),
            )
            .execute(self.0)?,
        };
        Ok(())
    }

    /// The simulated gauge of a test.
    ///
    /// # Errors
    /// Database trouble.
    pub fn simulated(&mut self, test: i64) -> Result<Option<Simulated>, StoreError> {
        Ok(simulated::table
            .find(test)
            .select(Simulated::as_select())
            .first(self.0)
            .optional()?)
    }

    /// All simulated gauges with their tests.
    ///
    /// # Errors
    /// Database trouble.
    pub fn all_simulated(&mut self) -> Result<Vec<(Simulated, Test)>, StoreError> {
        Ok(simulated::table
            .inner_join(tests::table.on(tests::n.eq(simulated::test)))
            .select((Simulated::as_select(), Test::as_select()))
            .load(self.0)?)
    }

    /// Keeps a simulated gauge.
    ///
    /// # Errors
    /// If the test has one.
    pub fn add_simulated(&mut self, row: &Simulated) -> Result<(), StoreError> {
        diesel::insert_into(simulated::table)
            .values(row)
            .execute(self.0)?;
        Ok(())
    }

    /// Forgets the simulated gauge of a test.
    ///
    /// # Errors
    /// Database trouble.
    pub fn end_simulated(&mut self, test: i64) -> Result<(), StoreError> {
        diesel::delete(simulated::table.find(test)).execute(self.0)?;
        Ok(())
    }
}
