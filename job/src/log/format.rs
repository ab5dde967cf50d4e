//! The number of the form that entries are written in; how older forms are read, and what becomes of later ones.
//!
//! A new deed, a new field or a new meaning takes a new number, and a step that makes of the form before it the new
//! one: an entry is read as it was kept and brought up step by step; the line itself, which was hashed, never changes.

use super::{Deed, Entry};
use serde::Deserialize;
use serde_json::Value;

/// The form that this version writes.
pub const FORMAT: u32 = 1;
/// What writes it.
pub const WRITER: &str = ruhe_core::ENGINE_VERSION;

/// Makes of an entry of one form one of the next.
type Step = fn(&mut Value);
/// The steps from each form to the next, from the first on.
const STEPS: [Step; FORMAT as usize - 1] = [];

/// An entry of a later form whose deed is not known here.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Later {
    /// Name of the deed.
    pub deed: String,
}

/// Where a later version wrote on.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error(
    "entry {seq} was written by {ruhe} in a form (number {format}) that this version does not know: what stands \
     here may no longer hold, and nothing can be added. Go on with {ruhe} or a later one"
)]
pub struct Newer {
    /// Place of the entry.
    pub seq: u64,
    /// What wrote it.
    pub ruhe: String,
    /// Its form.
    pub format: u32,
}

impl Entry {
    /// Whether a later version wrote it.
    #[must_use]
    pub fn newer(&self) -> Option<Newer> {
        (self.format > FORMAT).then(|| Newer {
            seq: self.seq,
            ruhe: self.ruhe.clone(),
            format: self.format,
        })
    }
}

/// What every form has in common, whatever else it says.
#[derive(Deserialize)]
struct Head {
    log: String,
    seq: u64,
    id: String,
    actor: String,
    device: String,
    said_ms: i64,
    kept_ms: i64,
    before: String,
    format: u32,
    ruhe: String,
    deed: String,
}

/// Reads a kept line of any form. Of a later one what is known is read: whoever has it asks [`Entry::newer`].
///
/// # Errors
/// If it is no entry.
pub fn read(line: &str) -> Result<Entry, String> {
    match serde_json::from_str::<Entry>(line) {
        Ok(e) if e.format == FORMAT => Ok(e),
        _ => {
            let value = serde_json::from_str(line).map_err(|e| unread(&e))?;
            brought_up(value, FORMAT, &STEPS)
        }
    }
}

/// An entry of any form as one of the form `now`, by these steps.
fn brought_up(mut value: Value, now: u32, steps: &[Step]) -> Result<Entry, String> {
    let head: Head = serde_json::from_value(value.clone()).map_err(|e| unread(&e))?;
    if head.format > now {
        return Ok(later(head, value));
    }
    let from = (head.format as usize)
        .checked_sub(1)
        .ok_or_else(|| unread(&"forms begin with 1"))?;
    for step in steps.iter().skip(from) {
        step(&mut value);
    }
    serde_json::from_value(value).map_err(|e| unread(&e))
}

fn later(head: Head, value: Value) -> Entry {
    let deed = serde_json::from_value(value).unwrap_or(Deed::Later(Later { deed: head.deed }));
    Entry {
        log: head.log,
        seq: head.seq,
        id: head.id,
        actor: head.actor,
        device: head.device,
        said_ms: head.said_ms,
        kept_ms: head.kept_ms,
        before: head.before,
        format: head.format,
        ruhe: head.ruhe,
        deed,
    }
}

pub(super) fn unread(e: &dyn std::fmt::Display) -> String {
    format!("it cannot be read: {e}")
}

#[cfg(test)]
mod tests {
    use super::*;
    use serde_json::json;

    fn line(format: u32, deed: &Value) -> Value {
        let mut line = json!({
            "log": "c", "seq": 3, "id": "i", "actor": "Ada", "device": "phone", "said_ms": 1, "kept_ms": 2,
            "before": "", "format": format, "ruhe": "ruhe 7.1"
        });
        let all = line.as_object_mut().unwrap();
        all.extend(deed.as_object().unwrap().clone());
        line
    }

    /// Two forms ago a reason was called a cause, and one ago it was kept in capitals.
    #[test]
    fn an_older_form_is_brought_up_step_by_step() {
        fn renamed(v: &mut Value) {
            v["reason"] = v["cause"].take();
        }
        fn in_small_letters(v: &mut Value) {
            let was = v["reason"].as_str().unwrap().to_lowercase();
            v["reason"] = was.into();
        }
        let steps: [Step; 2] = [renamed, in_small_letters];
        let struck = |v: Value| match brought_up(v, 3, &steps).map(|e| e.deed) {
            Ok(Deed::Struck { reason, .. }) => reason,
            other => panic!("{other:?}"),
        };
        let deed = |name: &str, said: &str| json!({"deed": "struck", "entry": "x", name: said});
        assert_eq!(struck(line(1, &deed("cause", "SLIP"))), "slip");
        assert_eq!(struck(line(2, &deed("reason", "SLIP"))), "slip");
        assert_eq!(struck(line(3, &deed("reason", "SLIP"))), "SLIP");
        assert!(brought_up(line(0, &deed("cause", "SLIP")), 3, &steps).is_err());
    }

    #[test]
    fn a_later_form_is_read_as_far_as_it_is_known() {
        let text = |deed: &Value| line(FORMAT + 1, deed).to_string();
        let known = read(&text(
            &json!({"deed": "struck", "entry": "x", "reason": "slip", "weight": 3}),
        ))
        .unwrap();
        assert!(matches!(known.deed, Deed::Struck { .. }));
        let unknown = read(&text(&json!({"deed": "taken_back", "all": true}))).unwrap();
        assert_eq!(unknown.deed.name(), "taken_back");
        for e in [known, unknown] {
            assert_eq!(e.newer().unwrap().ruhe, "ruhe 7.1");
            assert_eq!((e.seq, e.actor.as_str()), (3, "Ada"));
        }
        // Of the form of now an unknown deed is no entry.
        assert!(read(&line(FORMAT, &json!({"deed": "taken_back"})).to_string()).is_err());
    }
}
