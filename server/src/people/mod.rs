//! Coming in: secrets, throttling, pairing, the gate that every request passes, and what is counted at it.

mod gate;
mod limits;
mod pairing;
mod refusals;
mod secret;
mod streams;
mod throttle;

pub use gate::{
    Calling, Guarded, House, Identity, cookie_name, drills_of, gate, passed, place, place_of,
};
pub use limits::{Limits, SILENCE};
pub use pairing::{Pairings, ShownBy};
pub use refusals::Refusals;
pub use secret::{Secret, check_password, fresh_code, hashed, is_password, random_seed};
pub use streams::Streams;
pub use throttle::Throttle;

/// A session that is not used ends after so long, ms: a week.
pub const IDLE_MS: i64 = 7 * 86_400_000;
/// And any session after so long, ms: ninety days.
pub const LONGEST_MS: i64 = 90 * 86_400_000;
/// A confirmation for signing lasts so long, ms.
pub const AGAIN_MS: i64 = 5 * 60_000;
