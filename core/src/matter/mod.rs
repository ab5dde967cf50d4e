//! What the gases and liquids do: nitrogen density, saturation of water and ice, the atmosphere, refrigerants.

pub mod atmosphere;
pub mod nitrogen;
pub mod refrigerant;
pub mod tube;
pub mod water;
