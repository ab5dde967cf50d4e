//! What a temperature may have done while nobody read it.

use crate::reading::Series;

/// How far a temperature nobody reads strays, K per root of ten minutes: believed before a probe's own readings are
/// looked at, and with the weight of so many of them. Common practice, no source; checked by core/tests/all/thinned.rs.
const STRAY: (f64, f64) = (0.7, 3.0);
/// A probe read at least this often is followed, s; beyond, the gas may have strayed since, for no longer than
/// the gas takes to follow its pipe. Common practice, no source.
const FOLLOWED: (f64, f64) = (300.0, 900.0);

/// How far the temperature may have been, at the moment `at`, from what this probe's readings say, K (standard
/// deviation): it wanders like a random walk while nobody reads it, as much as it was seen to between readings.
pub fn unread(probe: &Series, at: f64) -> f64 {
    let (usual, belief) = STRAY;
    let (mut sum, mut n) = (belief * usual * usual, belief);
    if probe.usual_step() > FOLLOWED.0 {
        for i in 1..probe.len() - 1 {
            let (a, b) = (probe.t[i] - probe.t[i - 1], probe.t[i + 1] - probe.t[i]);
            let off = probe.v[i] - (b * probe.v[i - 1] + a * probe.v[i + 1]) / (a + b);
            sum += off * off * 600.0 * (a + b) / (a * b).max(1.0);
            n += 1.0;
        }
    }
    let unseen = (probe.unread_around(at).min(FOLLOWED.1) - FOLLOWED.0).max(0.0);
    (sum / n * unseen / 600.0).sqrt()
}
