//! What was said elsewhere already: the plate's charge, the lengths of tubes. Said again it is compared.

use ruhe_core::quantity::{Mass, significant};

/// Two plates that differ by less were read alike (their last digit).
pub(super) const ALIKE: f64 = 0.005;
/// Two lengths that differ by less were measured alike: a share, and m (common practice, no source).
const MEASURED: (f64, f64) = (0.02, 0.1);

/// What the rest of the job says.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Known {
    /// Where the plate's charge was read, and what.
    pub plates: Vec<(&'static str, Mass)>,
    /// Size of a tube and its length in the survey, m.
    pub lengths: Vec<(String, f64)>,
}

impl Known {
    /// The plate's charge as it was read first.
    #[must_use]
    pub fn plate(&self) -> Option<Mass> {
        self.plates.first().map(|p| p.1)
    }

    /// Length of the tubes of a size, m.
    #[must_use]
    pub fn length(&self, size: &str) -> Option<f64> {
        let of: Vec<f64> = self
            .lengths
            .iter()
            .filter(|l| l.0 == size)
            .map(|l| l.1)
            .collect();
        (!of.is_empty()).then(|| of.iter().sum())
    }

    /// Two readings of one plate that are not alike, in words. `own`: where it was read besides, and what.
    #[must_use]
    pub fn differ(&self, own: Option<(&'static str, Mass)>) -> Option<String> {
        let all: Vec<(&str, Mass)> = self.plates.iter().copied().chain(own).collect();
        let (first, rest) = all.split_first()?;
        let other = rest
            .iter()
            .find(|r| (r.1.g() / first.1.g() - 1.0).abs() > ALIKE)?;
        Some(format!(
            "The plate’s charge is {} in the {} and {} in the {}. Look at the plate again, and put the wrong \
             one right.",
            first.1.words(),
            first.0,
            other.1.words(),
            other.0
        ))
    }

    /// Tubes of a size that are longer or shorter than the survey has them, in words.
    #[must_use]
    pub fn longer(&self, size: &str, metres: f64) -> Option<String> {
        let survey = self.length(size)?;
        let off = (metres - survey).abs();
        (off > MEASURED.1.max(MEASURED.0 * survey)).then(|| {
            let words = |m: f64| {
                format!(
                    "{} m ({} ft)",
                    significant(m, 3),
                    significant(m / 0.304_8, 3)
                )
            };
            format!(
                "{size}: {} here, {} in the survey.",
                words(metres),
                words(survey)
            )
        })
    }
}
