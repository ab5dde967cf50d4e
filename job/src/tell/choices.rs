//! What a field with a choice offers, with titles.

use super::reply::NamedView;
use crate::charge::{
    Covers, LedgerKind, Metering, PlateRead, Purity, RATES_SHOWN, ScaleMode, Scope,
};
use crate::log::{Besides, GaugeSide};
use crate::ports::{Bubbles, Core, DrierState, PortSide, Purge, Refitted, Stem};
use crate::procedure::{BreakWith, CoresBack};
use crate::search::RepairOpened;
use crate::startup::{Drive, Mode};
use ruhe_core::quantity::MassUnit;
use serde::Serialize;

/// The choices of every document, with their titles.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Choices {
    pub mass_units: Vec<NamedView>,
    pub rates: Vec<NamedView>,
    pub scopes: Vec<NamedView>,
    pub plate_reads: Vec<NamedView>,
    pub covers: Vec<NamedView>,
    pub meterings: Vec<NamedView>,
    pub ledger_kinds: Vec<NamedView>,
    pub scale_modes: Vec<NamedView>,
    pub purities: Vec<NamedView>,
    pub cores: Vec<NamedView>,
    pub refitted: Vec<NamedView>,
    pub bubbles: Vec<NamedView>,
    pub stems: Vec<NamedView>,
    pub purges: Vec<NamedView>,
    pub driers: Vec<NamedView>,
    pub break_with: Vec<NamedView>,
    pub port_sides: Vec<NamedView>,
    pub gauge_sides: Vec<NamedView>,
    pub besides: Vec<NamedView>,
    pub repairs_opened: Vec<NamedView>,
    pub cores_back: Vec<NamedView>,
    pub modes: Vec<NamedView>,
    pub drives: Vec<NamedView>,
}

macro_rules! listed {
    ($t:ty) => {
        <$t>::ALL
            .iter()
            .map(|x| NamedView {
                code: x.code().into(),
                title: x.title().into(),
            })
            .collect()
    };
}

/// All choices.
#[must_use]
pub fn choices() -> Choices {
    let unit = |u: &MassUnit| NamedView {
        code: u.code().into(),
        title: if *u == MassUnit::PoundOunce {
            "lb + oz"
        } else {
            u.code()
        }
        .into(),
    };
    Choices {
        mass_units: MassUnit::ALL.iter().map(unit).collect(),
        rates: RATES_SHOWN
            .iter()
            .map(|r| NamedView {
                code: (*r).into(),
                title: (*r).into(),
            })
            .collect(),
        scopes: listed!(Scope),
        plate_reads: listed!(PlateRead),
        covers: listed!(Covers),
        meterings: listed!(Metering),
        ledger_kinds: listed!(LedgerKind),
        scale_modes: listed!(ScaleMode),
        purities: listed!(Purity),
        cores: listed!(Core),
        refitted: listed!(Refitted),
        bubbles: listed!(Bubbles),
        stems: listed!(Stem),
        purges: listed!(Purge),
        driers: listed!(DrierState),
        break_with: listed!(BreakWith),
        port_sides: listed!(PortSide),
        gauge_sides: listed!(GaugeSide),
        besides: listed!(Besides),
        repairs_opened: listed!(RepairOpened),
        cores_back: listed!(CoresBack),
        modes: listed!(Mode),
        drives: listed!(Drive),
    }
}
