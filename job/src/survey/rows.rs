//! Rows of a document that is kept in versions: a row that is renamed stays the same row.

use crate::ports::PortDoc;
use crate::refusal::Refusal;
use crate::survey::{JointDoc, ValveDoc};

/// A row that keeps its id whatever it is called.
pub trait Row {
    /// Its id; empty: it is new.
    fn id(&self) -> &str;
    /// Gives it one.
    fn set_id(&mut self, id: String);
    /// What it is called.
    fn name(&self) -> &str;
}

macro_rules! row {
    ($($of:ty),*) => {$(
        impl Row for $of {
            fn id(&self) -> &str {
                &self.id
            }
            fn set_id(&mut self, id: String) {
                self.id = id;
            }
            fn name(&self) -> &str {
                self.name.trim()
            }
        }
    )*};
}
row!(JointDoc, ValveDoc, PortDoc);

/// Gives every row an id: the one it brings, that of the row that bore its name before, else a new one that follows
/// from the document's next `version`, so that it is the same wherever it is worked out.
///
/// # Errors
/// Two rows of one id or one name; an id that no row of the version before has.
pub fn with_ids<T: Row>(
    list: &str,
    rows: &mut [T],
    before: &[T],
    version: i64,
) -> Result<(), Refusal> {
    for i in 0..rows.len() {
        let (id, name) = (rows[i].id(), rows[i].name());
        if !id.is_empty() && !before.iter().any(|o| o.id() == id) {
            return Err(Refusal::wrong(
                &format!("{list}.{i}.id"),
                "there is no such row; a new one brings no id",
            ));
        }
        let earlier = &rows[..i];
        if !id.is_empty() && earlier.iter().any(|o| o.id() == id) {
            return Err(Refusal::wrong(
                &format!("{list}.{i}.id"),
                "this row stands twice",
            ));
        }
        if earlier.iter().any(|o| o.name() == name) {
            return Err(Refusal::wrong(
                &format!("{list}.{i}.name"),
                format!("“{name}” is there already: what is seen at one would count for both"),
            ));
        }
    }
    for i in 0..rows.len() {
        if !rows[i].id().is_empty() {
            continue;
        }
        let same = before.iter().find(|o| o.name() == rows[i].name());
        let id = same
            .map(|o| o.id().to_owned())
            .filter(|id| !id.is_empty() && rows.iter().all(|o| o.id() != id))
            .unwrap_or_else(|| format!("{version}.{i}"));
        rows[i].set_id(id);
    }
    Ok(())
}

/// What bears another name than before: the old one and the new one.
#[must_use]
pub fn renamed<T: Row>(before: &[T], now: &[T]) -> Vec<(String, String)> {
    let was = |n: &&T| {
        let same = |o: &&T| !o.id().is_empty() && o.id() == n.id() && o.name() != n.name();
        before.iter().find(same)
    };
    now.iter()
        .filter_map(|n| Some((was(&n)?.name().to_owned(), n.name().to_owned())))
        .collect()
}

/// The name that it bears now.
#[must_use]
pub fn name_now(name: &str, renamed: &[(String, String)]) -> Option<String> {
    let found = renamed.iter().find(|(was, _)| was == name.trim());
    found.map(|(_, now)| now.clone())
}

#[cfg(test)]
mod tests {
    use super::*;

    fn joint(id: &str, name: &str) -> JointDoc {
        JointDoc {
            id: id.into(),
            name: name.into(),
            ..JointDoc::default()
        }
    }
    fn ids(rows: &[JointDoc]) -> Vec<&str> {
        rows.iter().map(|r| &*r.id).collect()
    }

    #[test]
    fn a_row_is_the_same_by_its_id_or_its_name_and_a_new_one_is_new() {
        let mut first = vec![joint("", "tee"), joint("", "flare")];
        with_ids("joints", &mut first, &[], 1).unwrap();
        assert_eq!(ids(&first), ["1.0", "1.1"]);
        let mut next = vec![
            joint("1.1", "tee"),
            joint("", "flare"),
            joint("1.0", "elbow"),
        ];
        with_ids("joints", &mut next, &first, 2).unwrap();
        // The name went to another row: what bears it now without an id is new.
        assert_eq!(ids(&next), ["1.1", "2.1", "1.0"]);
        let names = renamed(&first, &next);
        assert_eq!(name_now("flare ", &names).as_deref(), Some("tee"));
        assert_eq!(name_now("tee", &names).as_deref(), Some("elbow"));
        let mut untouched = vec![joint("", "flare")];
        with_ids("joints", &mut untouched, &first, 3).unwrap();
        assert_eq!(ids(&untouched), ["1.1"]);
    }

    #[test]
    fn no_two_rows_are_one_and_no_row_makes_up_its_id() {
        let says = |rows: &mut [JointDoc]| {
            let before = [joint("1.0", "tee")];
            with_ids("joints", rows, &before, 2)
                .unwrap_err()
                .to_string()
        };
        assert!(says(&mut [joint("", "a"), joint("", " a ")]).contains("count for both"));
        assert!(says(&mut [joint("1.0", "a"), joint("1.0", "b")]).contains("twice"));
        assert!(says(&mut [joint("7", "a")]).contains("no such row"));
    }
}
