//! The ledger: its rows, its cylinders, how it stands to the target.

use super::mass::MassView;
use crate::charge::{LedgerKind, RowDoc, row};
use crate::state::Circuit;
use ruhe_core::quantity::Mass;
use serde::Serialize;

/// A row of the ledger.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RowView {
    /// Id of its entry.
    pub id: String,
    pub at_ms: i64,
    pub actor: String,
    pub kind_title: String,
    pub row: RowDoc,
    /// With its sign: into the system above zero.
    pub net: Option<MassView>,
}

/// A cylinder, and what went out of it and came into it.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CylinderView {
    pub cylinder: String,
    pub refrigerant: String,
    pub out: MassView,
    pub back: MassView,
    pub rows: usize,
}

/// The ledger.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LedgerView {
    pub rows: Vec<RowView>,
    pub cylinders: Vec<CylinderView>,
    pub inside: MassView,
    pub is_at_least: bool,
    pub unweighed: usize,
    pub recovered: MassView,
    /// What is left to add; below zero: too much.
    pub to_add: Option<MassView>,
    /// How it stands to the target, in words.
    pub words: Option<String>,
    pub is_within: Option<bool>,
    pub is_far: Option<bool>,
}

pub(super) fn ledger_view(c: &Circuit) -> LedgerView {
    let (s, b) = c.ledger_sum();
    let rows: Vec<RowView> = c
        .visit
        .ledger
        .iter()
        .map(|r| {
            let net = row(&r.said.row).ok().and_then(|x| x.net);
            let kind = r.said.row.kind;
            let sign = if kind == LedgerKind::Recovered {
                -1.0
            } else {
                kind.sign()
            };
            RowView {
                id: r.id.clone(),
                at_ms: r.said.at_ms,
                actor: r.actor.clone(),
                kind_title: kind.title().into(),
                net: net.map(|m| Mass::from_g(sign * m.g()).into()),
                row: r.said.row.clone(),
            }
        })
        .collect();
    LedgerView {
        cylinders: cylinders(c),
        rows,
        inside: s.inside.into(),
        is_at_least: s.is_at_least,
        unweighed: s.unweighed,
        recovered: s.recovered.into(),
        to_add: b.as_ref().map(|b| Mass::from_g(-b.off.g()).into()),
        words: b.as_ref().map(|b| b.words.clone()),
        is_within: b.as_ref().map(|b| b.is_within),
        is_far: b.as_ref().map(|b| b.is_far),
    }
}

fn cylinders(c: &Circuit) -> Vec<CylinderView> {
    let mut out: Vec<(String, String, f64, f64, usize)> = vec![];
    for r in &c.visit.ledger {
        let d = &r.said.row;
        let name = d.cylinder.trim();
        if name.is_empty() {
            continue;
        }
        let g = row(d).ok().and_then(|x| x.net).map_or(0.0, Mass::g);
        let (left, back) = if d.kind.leaves_cylinder() {
            (g, 0.0)
        } else {
            (0.0, g)
        };
        match out.iter_mut().find(|o| o.0 == name) {
            Some(o) => (o.2, o.3, o.4) = (o.2 + left, o.3 + back, o.4 + 1),
            None => out.push((name.into(), d.refrigerant.trim().into(), left, back, 1)),
        }
    }
    out.into_iter()
        .map(|(cylinder, refrigerant, left, back, rows)| CylinderView {
            cylinder,
            refrigerant,
            out: Mass::from_g(left).into(),
            back: Mass::from_g(back).into(),
            rows,
        })
        .collect()
}
