//! One test as recorded: what a data package holds and what the judges take in.

use super::remark::Remark;
use super::{Channel, Event, EventKind, Placement, Quantity, Series, Sky};
use crate::matter::atmosphere;
use crate::named;
use crate::quantity::AbsolutePressure;
use serde::{Deserialize, Serialize};

named! {
    /// The kind of test.
    Kind {
        /// Nitrogen held in a closed system.
        PressureHold = "pressure-hold",
        /// Vacuum left alone after isolation.
        VacuumDecay = "vacuum-decay",
        /// Pump running.
        PullDown = "pull-down",
        /// Pump or hoses alone.
        RigCheck = "rig-check",
        /// Two halves either side of a shut valve.
        LeakBy = "leak-by",
    }
}

named! {
    /// What is inside during a hold.
    Gas {
        /// Dry nitrogen only.
        Nitrogen = "nitrogen",
        /// Refrigerant left in it: no correction, no verdict.
        NitrogenWithRefrigerant = "nitrogen_with_refrigerant",
    }
}

/// What a hold may lose.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct HoldLimit {
    /// Allowed drop, Pa.
    pub drop_pa: f64,
    /// Over this time, s.
    pub over_s: f64,
}

impl HoldLimit {
    /// As a rate, Pa/s.
    #[must_use]
    pub fn rate(self) -> f64 {
        self.drop_pa / self.over_s
    }
}

/// What a decay may reach.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct DecayLimit {
    /// Highest level, Pa absolute.
    pub level_pa: f64,
    /// At this time after isolation, s.
    pub at_s: f64,
    /// Highest level at isolation, Pa.
    pub start_max_pa: Option<f64>,
    /// Greatest rise (Pa) over a time (s).
    pub rise: Option<(f64, f64)>,
}

named! {
    /// What a rig check was made on.
    RigPart {
        /// The pump alone, blanked off, running.
        Pump = "pump",
        /// Hoses and tools alone, shut off from the pump.
        Hoses = "hoses",
    }
}

/// One pull of an evacuation procedure.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PullStage {
    /// Down to, Pa absolute.
    pub target_pa: f64,
    /// Then broken with nitrogen to, Pa absolute; `None`: the last pull.
    pub break_pa: Option<f64>,
    /// For so long, s.
    pub dwell_s: f64,
}

/// What the hoses that stayed in a decay test give off on their own, as their own test told.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RigShare {
    /// Smallest rise of the rig alone, Pa/s.
    pub low_pa_s: f64,
    /// Largest rise of the rig alone, Pa/s.
    pub high_pa_s: f64,
    /// Volume of the rig, L.
    pub volume_l: f64,
    /// Which test told it.
    pub test: String,
}

/// What is known about a test besides its readings.
#[derive(Debug, Clone, PartialEq)]
pub struct Settings {
    /// Kind of test.
    pub kind: Kind,
    /// What is inside.
    pub gas: Gas,
    /// Station pressure, if typed, Pa.
    pub barometer_pa: Option<f64>,
    /// Altitude, m.
    pub altitude_m: Option<f64>,
    /// Volume under test, L.
    pub volume_l: Option<f64>,
    /// Smallest and largest volume it may have, L, when it was not measured (Ruhe's own, optional).
    pub volume_band_l: Option<(f64, f64)>,
    /// What a gauge's hose holds, mL: emptied when it is taken off, filled from the system when it is put back (Ruhe's
    /// own, optional).
    pub dead_volume_ml: Option<f64>,
    /// Time under vacuum before isolation, s.
    pub evacuated_s: Option<f64>,
    /// Isolated from pump and hoses.
    pub isolated: bool,
    /// Limit of a hold.
    pub hold_limit: Option<HoldLimit>,
    /// Limit of a decay.
    pub decay_limit: Option<DecayLimit>,
    /// Planned time of a hold, s (Ruhe's own, optional).
    pub planned_s: Option<f64>,
    /// Settled start as the technician decided, s (Ruhe's own, optional).
    pub settled_override_s: Option<f64>,
    /// How the probe of a hold sits, if it was asked.
    pub probe: Option<Placement>,
    /// The sky over a hold, if it was asked.
    pub sky: Option<Sky>,
    /// Refrigerant of the circuit (Ruhe's own, optional).
    pub refrigerant: Option<String>,
    /// Test pressure planned, Pa gauge (Ruhe's own, optional).
    pub test_pa: Option<f64>,
    /// Partial pressure of tracer refrigerant put under the nitrogen, Pa (Ruhe's own, optional).
    pub tracer_pa: Option<f64>,
    /// A hold counts only once the supply was said to be shut (Ruhe's own; files count from their first reading).
    pub awaits_isolation: bool,
    /// What stands behind a valve that bounds the section, or half B (Ruhe's own, optional).
    pub behind: Option<crate::reading::Behind>,
    /// What the parts under test (half A of a leak-by) may take, Pa gauge (Ruhe's own, optional).
    pub ceiling_pa: Option<f64>,
    /// What the parts of half B may take, Pa gauge (Ruhe's own, optional).
    pub ceiling_b_pa: Option<f64>,
    /// Volume of half B over half A in a leak-by test (Ruhe's own, optional).
    pub volume_ratio: Option<f64>,
    /// The pulls of an evacuation (Ruhe's own, optional).
    pub stages: Vec<PullStage>,
    /// Pump, hoses and what else lies between (Ruhe's own, optional).
    pub rig: Option<crate::flow::Rig>,
    /// What the hoses give off that stayed in a decay test (Ruhe's own, optional).
    pub rig_share: Option<RigShare>,
    /// Its readings came from a simulated gauge (Ruhe's own, optional).
    pub is_simulated: bool,
    /// What a rig check was made on (Ruhe's own, optional).
    pub part: Option<RigPart>,
}

impl Settings {
    /// The defaults of the interchange format for a kind.
    #[must_use]
    pub fn new(kind: Kind) -> Self {
        Self {
            kind,
            gas: Gas::Nitrogen,
            barometer_pa: None,
            altitude_m: None,
            volume_l: None,
            volume_band_l: None,
            dead_volume_ml: None,
            evacuated_s: None,
            isolated: true,
            hold_limit: None,
            decay_limit: None,
            planned_s: None,
            settled_override_s: None,
            probe: None,
            sky: None,
            refrigerant: None,
            test_pa: None,
            tracer_pa: None,
            awaits_isolation: false,
            behind: None,
            ceiling_pa: None,
            ceiling_b_pa: None,
            volume_ratio: None,
            stages: vec![],
            rig: None,
            rig_share: None,
            part: None,
            is_simulated: false,
        }
    }
}

/// One reading as typed, with its place in time.
#[derive(Debug, Clone, PartialEq)]
pub struct Reading {
    /// Seconds since the recording's start.
    pub at_s: f64,
    /// Index into the recording's channels.
    pub channel: usize,
    /// In the channel's unit.
    pub value: f64,
}

/// One test: channels, readings in time order, events, settings.
#[derive(Debug, Clone, PartialEq)]
pub struct Recording {
    /// What is known besides the readings.
    pub settings: Settings,
    /// Gauges and probes.
    pub channels: Vec<Channel>,
    /// In time order.
    pub readings: Vec<Reading>,
    /// In time order.
    pub events: Vec<Event>,
    /// Wall-clock start, ms since 1970 UTC, where the files say.
    pub start_ms: Option<i64>,
    /// Exact duplicates that were dropped on reading.
    pub duplicates: usize,
    /// What was assumed or noticed on reading, in words.
    pub remarks: Vec<Remark>,
}

impl Recording {
    /// The series of one channel in SI (Pa or K). A gauge pressure stays a gauge pressure.
    #[must_use]
    pub fn series(&self, channel: usize) -> Series {
        let mut out = Series::default();
        let (factor, offset) = self.channels[channel].scale();
        for r in self.readings.iter().filter(|r| r.channel == channel) {
            out.t.push(r.at_s);
            out.v.push(r.value * factor + offset);
        }
        out
    }

    /// Every channel's series in one pass.
    #[must_use]
    pub fn all_series(&self) -> Vec<Series> {
        let mut sizes = vec![0usize; self.channels.len()];
        self.readings.iter().for_each(|r| sizes[r.channel] += 1);
        let mut out: Vec<Series> = sizes.into_iter().map(Series::with_capacity).collect();
        let scales: Vec<(f64, f64)> = self.channels.iter().map(Channel::scale).collect();
        for r in &self.readings {
            let (factor, offset) = scales[r.channel];
            out[r.channel].t.push(r.at_s);
            out[r.channel].v.push(r.value * factor + offset);
        }
        out
    }

    /// Indices of the channels of a quantity that have readings.
    pub fn channels_of(&self, quantity: Quantity) -> impl Iterator<Item = usize> + '_ {
        (0..self.channels.len()).filter(move |&i| {
            self.channels[i].quantity == quantity && self.readings.iter().any(|r| r.channel == i)
        })
    }

    /// A system gauge's series above the atmosphere, Pa: an absolute one is taken down by it.
    #[must_use]
    pub fn above_air(&self, channel: usize) -> Series {
        let mut s = self.series(channel);
        if self.channels[channel].quantity == Quantity::AbsolutePressure {
            let air = self.atmosphere().0.pa();
            s.v.iter_mut().for_each(|v| *v -= air);
        }
        s
    }

    /// Gauges of the system that have readings.
    pub fn system_gauges(&self) -> impl Iterator<Item = usize> + '_ {
        (0..self.channels.len()).filter(|&i| {
            self.channels[i].is_system_pressure() && self.readings.iter().any(|r| r.channel == i)
        })
    }

    /// First time of a kind of event.
    #[must_use]
    pub fn first_event(&self, kind: EventKind) -> Option<f64> {
        self.events.iter().find(|e| e.kind == kind).map(|e| e.at_s)
    }

    /// Last time of a kind of event.
    #[must_use]
    pub fn last_event(&self, kind: EventKind) -> Option<f64> {
        self.events
            .iter()
            .rev()
            .find(|e| e.kind == kind)
            .map(|e| e.at_s)
    }

    /// When the supply was shut, s: topping up begins anew, and then the first time it was said since counts, not a
    /// second tap. Minus infinity when nobody said so.
    #[must_use]
    pub fn supply_shut(&self) -> f64 {
        let topped = self
            .last_event(EventKind::ToppedUp)
            .unwrap_or(f64::NEG_INFINITY);
        self.events
            .iter()
            .find(|e| e.kind == EventKind::SupplyIsolated && e.at_s >= topped)
            .map_or(topped, |e| e.at_s)
    }

    /// A system gauge that was read above the top of its range, if any: its index.
    #[must_use]
    pub fn beyond_range(&self) -> Option<usize> {
        let tops: Vec<f64> = self
            .channels
            .iter()
            .map(|c| {
                c.range
                    .filter(|_| c.is_system_pressure())
                    .unwrap_or(f64::INFINITY)
            })
            .collect();
        self.readings
            .iter()
            .find(|r| r.value > tops[r.channel])
            .map(|r| r.channel)
    }

    /// A channel whose calibration had run out when the recording began, if any: its index.
    #[must_use]
    pub fn calibration_overdue(&self) -> Option<usize> {
        let began = jiff::tz::Offset::UTC
            .to_datetime(jiff::Timestamp::from_millisecond(self.start_ms?).ok()?)
            .date();
        self.channels
            .iter()
            .position(|c| c.calibration_due().is_some_and(|due| due < began))
    }

    /// The atmosphere to use when there is no barometer channel, and whether somebody stated it.
    #[must_use]
    pub fn atmosphere(&self) -> (AbsolutePressure, bool) {
        match (self.settings.barometer_pa, self.settings.altitude_m) {
            (Some(pa), _) => (AbsolutePressure::from_pa(pa), true),
            (None, Some(h)) => (atmosphere::at_altitude(h), true),
            (None, None) => (atmosphere::SEA_LEVEL, false),
        }
    }
}
