//! The register of ports, and what each still needs.

use crate::ports::PortsDoc;
use crate::state::Circuit;
use serde::Serialize;

/// A port with what it still needs.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PortState {
    pub name: String,
    pub missing: Vec<String>,
}

/// The register of ports.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PortsView {
    pub version: i64,
    pub is_kept: bool,
    pub ports: PortsDoc,
    pub states: Vec<PortState>,
    pub deviations: Vec<String>,
}

pub(super) fn ports_view(c: &Circuit) -> PortsView {
    let mut ports = c.ports();
    // A line for each joint the survey calls brazed, whether somebody said how or not.
    let brazed = c
        .doc
        .joints
        .iter()
        .filter(|j| j.kind == crate::survey::JointKind::Braze);
    for j in brazed {
        if !ports.joints.iter().any(|b| b.name == j.name) {
            ports.joints.push(crate::ports::BrazedDoc {
                name: j.name.clone(),
                ..Default::default()
            });
        }
    }
    PortsView {
        version: c.ports_version(),
        is_kept: c.visit.ports.is_some(),
        states: ports
            .ports
            .iter()
            .map(|p| PortState {
                name: p.name.clone(),
                missing: p
                    .missing(c.looked_at(&p.name))
                    .into_iter()
                    .map(Into::into)
                    .collect(),
            })
            .collect(),
        deviations: ports.deviations(),
        ports,
    }
}
