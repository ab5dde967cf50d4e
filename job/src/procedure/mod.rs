//! The order of work: job kinds, their stages, the named procedures ("schools"), pressure ceilings and cautions.

mod breaking;
mod budget;
mod caution;
mod evacuation;
mod job;
mod plan;
mod press;
mod school;

pub use breaking::{BreakDoc, BreakWith, CoresBack, PortPressure, check_break};
pub use budget::{Budget, Filled, fill, volume_from_bottle};
pub use caution::{BEFORE_GAS, BEFORE_TORCH, COMPRESSOR, Caution, cautions, fire};
pub use evacuation::{BREAK, EVACUATION_SCHOOLS, EvacuationSchool, pulls};
pub use job::{JobKind, Stage, Step};
pub use plan::{
    Binds, CeilingLevel, GAUGE_MARGIN, Rating, SHARE, StrengthTest, ceiling, ceiling_of,
    check_test_pressure, default_test_pressure, room_to_warm, standing, stored_energy, warmed,
};
pub use press::{PressStep, Pressing, SLIGHT, press_steps, pressing};
pub use school::{
    DECAY_SCHOOLS, DecaySchool, HOLD_SCHOOLS, HoldSchool, VERSION as SCHOOLS_VERSION,
};
