//! The kit: documents with versions, the last of each being what it is now.

use crate::rows::KitItem;
use crate::schema::kit;
use crate::{Store, StoreError};
use diesel::prelude::*;

impl Store {
    /// Stores a version of a thing of the kit.
    ///
    /// # Errors
    /// If the database refuses.
    pub fn add_kit(&self, item: &KitItem) -> Result<(), StoreError> {
        diesel::insert_into(kit::table)
            .values(item)
            .execute(&mut self.connection()?)?;
        Ok(())
    }

    /// The kit as it is now: the last version of everything, in the order it was first registered.
    ///
    /// # Errors
    /// If the database refuses.
    pub fn kit(&self) -> Result<Vec<KitItem>, StoreError> {
        let all: Vec<KitItem> = kit::table
            .order(kit::seq)
            .select(KitItem::as_select())
            .load(&mut self.connection()?)?;
        let mut out: Vec<KitItem> = Vec::new();
        for item in all {
            match out.iter_mut().find(|o| o.item_id == item.item_id) {
                Some(o) => *o = item,
                None => out.push(item),
            }
        }
        Ok(out)
    }
}
