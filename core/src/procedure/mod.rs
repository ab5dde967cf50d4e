//! The order of work: job kinds, their stages, the named procedures ("schools"), pressure ceilings and cautions.

mod caution;
mod job;
mod plan;
mod school;

pub use caution::cautions;
pub use job::{JobKind, Stage, Step};
pub use plan::{Plate, ceiling, check_test_pressure};
pub use school::{DECAY_SCHOOLS, DecaySchool, HOLD_SCHOOLS, HoldSchool, VERSION as SCHOOLS_VERSION};
