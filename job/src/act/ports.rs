//! The register of ports in its next version.

use super::happened_at;
use super::inside::{Asking, stopped};
use crate::log::{Deed, PortsKept};
use crate::ports::{PortsDoc, Refitted};
use crate::refusal::Refusal;
use crate::state::Circuit;
use crate::survey::with_ids;
use serde::Deserialize;

/// The register of ports.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)]
pub struct PortsInput {
    pub ports: PortsDoc,
    /// The version it was made from.
    pub version: i64,
    /// When, if not now: ms since 1970 UTC.
    pub at_ms: Option<i64>,
}

/// Keeps the next version of the register of ports.
///
/// # Errors
/// What cannot be, with its field; a version that is no longer the last.
pub fn keep_ports(c: &Circuit, mut b: PortsInput, now: i64) -> Result<Vec<Deed>, Refusal> {
    c.must_be_open()?;
    b.ports.check().map_err(|e| e.within("ports"))?;
    if b.version != c.ports_version() {
        return Err(Refusal::Conflict(
            "the register was changed on another device meanwhile; load it again".into(),
        ));
    }
    let before = c.ports();
    with_ids("ports", &mut b.ports.ports, &before.ports, b.version + 1)
        .map_err(|e| e.within("ports"))?;
    let at_ms = happened_at("at_ms", b.at_ms, now)?;
    let a = Asking::at(c, at_ms);
    for p in b.ports.moved(&before) {
        // One that went back at positive pressure, or never left its tool, was no open port.
        let has_tool = p.has_tool || p.refitted != Refitted::Not;
        a.contents
            .may_move_core(&[], has_tool, at_ms, a.units)
            .map_err(stopped("ports"))?;
    }
    Ok(vec![Deed::PortsKept(PortsKept {
        version: b.version + 1,
        ports: b.ports,
        at_ms,
    })])
}
