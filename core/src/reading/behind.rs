//! What stands behind a shut valve.

use crate::named;

named! {
    /// What stands on the far side of a shut valve.
    #[derive(Default)]
    Behind {
        /// Another section of this survey.
        Section = "section",
        /// Air.
        Air = "air",
        /// Nitrogen.
        Nitrogen = "nitrogen",
        /// A vacuum.
        Vacuum = "vacuum",
        /// The factory's charge of refrigerant.
        FactoryCharge = "factory_charge",
        /// Not known.
        #[default]
        Unknown = "unknown",
    }
}

impl Behind {
    /// Name on screen.
    #[must_use]
    pub fn title(self) -> &'static str {
        match self {
            Self::Section => "another section",
            Self::Air => "air",
            Self::Nitrogen => "nitrogen",
            Self::Vacuum => "vacuum",
            Self::FactoryCharge => "factory charge",
            Self::Unknown => "not known",
        }
    }
}
