//! How a temperature was taken and under what sky: two things that decide how well a hold can be corrected.

use crate::named;

named! {
    /// How the probe of a hold sits.
    Placement {
        /// Strapped to bare pipe and lagged.
        Strapped = "strapped",
        /// Clamped on, bare.
        Clamped = "clamped",
        /// Hanging in the air.
        Air = "air",
        /// An infrared thermometer, at the start and the end.
        Infrared = "infrared",
    }
}

named! {
    /// What the weather does to the pipes.
    Sky {
        /// Indoors.
        Indoors = "indoors",
        /// Overcast, no wind to speak of.
        Overcast = "overcast",
        /// Sun and cloud.
        SunCloud = "sun_cloud",
        /// Windy.
        Windy = "windy",
    }
}
