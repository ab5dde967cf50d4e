//! Coming in: secrets, throttling, pairing, and the gate that every request passes.

mod gate;
mod pairing;
mod secret;
mod throttle;

pub use gate::{Identity, cookie_name, gate};
pub use pairing::Pairings;
pub use secret::{Secret, check_password, fresh_code, hashed, is_password};
pub use throttle::Throttle;

/// A session that is not used ends after so long, ms: a week.
pub const IDLE_MS: i64 = 7 * 86_400_000;
/// And any session after so long, ms: ninety days.
pub const LONGEST_MS: i64 = 90 * 86_400_000;
/// A confirmation for signing lasts so long, ms.
pub const AGAIN_MS: i64 = 5 * 60_000;
