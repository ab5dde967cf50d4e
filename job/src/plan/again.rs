//! A hold repeated: what of an earlier plan and of its gauges holds for another go.

use super::{ChannelInput, Plan, PlanInput};
use crate::log::PlannedChannel;
use ruhe_core::reading::{CALIBRATION_DUE, Gas, Sky};

impl Plan {
    /// This plan for another hold at no less than `at_least` Pa gauge. What was true of its day only (the typed
    /// barometer, the sky outside) is left out. `None`: it is to be planned anew, for it went above a plate
    /// on purpose, had more than nitrogen in it or came from a file.
    #[must_use]
    pub fn again(&self, at_least: f64) -> Option<PlanInput> {
        let is_plain = self.strength.is_none()
            && self.tracer_pa.is_none()
            && self.gas.unwrap_or(Gas::Nitrogen) == Gas::Nitrogen
            && self.imported_from.is_none()
            && self.section_b.is_none();
        is_plain.then(|| PlanInput {
            school: self.school.clone(),
            section: self.section.clone(),
            source: self.source.clone(),
            kit: self.kit.clone(),
            gas: Some(Gas::Nitrogen),
            test_pa: self.test_pa.map(|p| p.max(at_least)),
            planned_s: self.planned_s,
            drop_pa: self.drop_pa,
            over_s: self.over_s,
            altitude_m: self.altitude_m,
            dead_volume_ml: self.dead_volume_ml,
            fittings_pa: self.fittings_pa,
            regulator_pa: self.regulator_pa,
            relief_pa: self.relief_pa,
            switch_pa: self.switch_pa,
            sensor_pa: self.sensor_pa,
            warming_k: self.warming_k,
            probe: self.probe,
            sky: self.sky.filter(|s| *s == Sky::Indoors),
            read_every_s: self.read_every_s,
            auto_off_s: self.auto_off_s,
            ..PlanInput::default()
        })
    }
}

/// A gauge or probe of an earlier test, to be planned with again.
impl From<&PlannedChannel> for ChannelInput {
    fn from(planned: &PlannedChannel) -> Self {
        let c = &planned.channel;
        Self {
            name: c.name.clone(),
            quantity: c.quantity,
            unit: c.unit,
            resolution: c.resolution,
            accuracy: c.accuracy,
            range: c.range,
            position: c.position,
            volume_share: c.volume_share,
            reference: c.reference,
            principle: c.principle,
            calibration_due: c
                .extra
                .iter()
                .find(|(n, _)| n == CALIBRATION_DUE)
                .map(|(_, d)| d.clone()),
        }
    }
}
