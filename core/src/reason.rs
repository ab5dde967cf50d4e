//! Codes of what decided a finding: the same list for every kind of test.

use crate::named;

named! {
    /// What decided.
    Reason {
        /// Nothing, or not enough, was read.
        TooFewReadings = "too_few_readings",
        /// The gas contains refrigerant.
        RefrigerantInside = "refrigerant_inside",
        /// The tracer is near its saturation and no longer behaves as a gas.
        TracerTooHeavy = "tracer_too_heavy",
        /// Nobody said that the supply is shut.
        SupplyNotIsolated = "supply_not_isolated",
        /// Hardly more pressure than the air's.
        NoTestPressure = "no_test_pressure",
        /// The test pressure went to nothing.
        LostEverything = "lost_everything",
        /// No thermometer.
        NoTemperature = "no_temperature",
        /// A fall larger than any cooling.
        BeyondAnyCooling = "beyond_any_cooling",
        /// The heat of filling may still be in it.
        StillSettling = "still_settling",
        /// Something moved before it settled.
        SettlingNotExplained = "settling_not_explained",
        /// The clock was started by hand.
        SettlingOverridden = "settling_overridden",
        /// The model could not be fitted.
        FitFailed = "fit_failed",
        /// A gauge was read above its range.
        BeyondRange = "beyond_range",
        /// A calibration had run out.
        CalibrationOverdue = "calibration_overdue",
        /// Held lower than planned.
        BelowTestPressure = "below_test_pressure",
        /// More gas than before.
        Gained = "gained",
        /// Before ten minutes or half of the planned time.
        TooSoon = "too_soon",
        /// No loss shown, and none above the limit hidden.
        WithinLimit = "within_limit",
        /// A loss is shown, and it is within the limit.
        LossWithinLimit = "loss_within_limit",
        /// A loss is shown; whether it is within the limit is not.
        LossNotBounded = "loss_not_bounded",
        /// The interval is wider than the limit.
        TooWide = "too_wide",
        /// The loss is above the limit.
        BeyondLimit = "beyond_limit",
        /// Steps of a gauge put back or a valve moved were taken out.
        StepsTakenOut = "steps_taken_out",
        /// Too short for the digits of this gauge.
        TooShortForDigits = "too_short_for_digits",
        /// A half stands above what its parts may take.
        AboveCeiling = "above_ceiling",
        /// The volume ratio was measured by opening the valve.
        RatioMeasured = "ratio_measured",
        /// The volume ratio was stated.
        RatioKnown = "ratio_known",
        /// The volume ratio was assumed within a band.
        RatioBand = "ratio_band",
        /// A charge stands behind the valve.
        ChargeBehind = "charge_behind",
        /// The pump was on it.
        NotIsolated = "not_isolated",
        /// Nobody said that it is isolated.
        AwaitsIsolation = "awaits_isolation",
        /// The trace jumps as under a pump.
        JumpsAsIfPumped = "jumps_as_if_pumped",
        /// The trace falls as under a pump.
        FallsAsIfPumped = "falls_as_if_pumped",
        /// It fell on after the marked isolation.
        IsolatedLater = "isolated_later",
        /// A reading stands far from its neighbours.
        ReadingInDoubt = "reading_in_doubt",
        /// The gauge stood still.
        GaugeStuck = "gauge_stuck",
        /// Nearer to the limit than the gauge is accurate.
        TooCloseToCall = "too_close_to_call",
        /// No shape fits the trace.
        NoShapeFits = "no_shape_fits",
        /// Isolated above what the rule allows.
        StartTooHigh = "start_too_high",
        /// Risen by more than the rule allows.
        RisesTooMuch = "rises_too_much",
        /// It crossed the limit where nobody read.
        CrossedInAGap = "crossed_in_a_gap",
        /// Over the limit before the rule's time.
        AlreadyOver = "already_over",
        /// The rule's time has not come.
        RuleTimeNotReached = "rule_time_not_reached",
        /// Over the limit at the rule's time.
        OverLimit = "over_limit",
        /// The pump runs, the target is not reached.
        Pulling = "pulling",
        /// The last target is reached.
        TargetReached = "target_reached",
        /// A target is reached, a nitrogen break follows.
        BreakDue = "break_due",
        /// Nitrogen stands in the system.
        BreakStands = "break_stands",
        /// It no longer falls.
        Stalled = "stalled",
        /// The valve to the pump is shut for a moment.
        ValveOff = "valve_off",
        /// A valve-off showed a gross rise.
        GrossRise = "gross_rise",
        /// Hoses were shut off above the level at which they tell anything.
        NotPumpedDown = "not_pumped_down",
        /// The pump is still on its way down.
        StillFalling = "still_falling",
        /// The pump reached its blank-off level.
        BlankOffReached = "blank_off_reached",
        /// The pump stays above its blank-off level.
        BlankOffMissed = "blank_off_missed",
        /// Hoses and tools hold.
        RigHolds = "rig_holds",
        /// Hoses give off gas or moisture.
        RigGivesGas = "rig_gives_gas",
        /// Hoses or tools leak.
        RigLeaks = "rig_leaks",
        /// Hoses rise too fast.
        RigRises = "rig_rises",
        /// Watched too short a time.
        TooShort = "too_short",
        /// What makes it rise is not clear.
        ShapeUnclear = "shape_unclear",
    }
}
