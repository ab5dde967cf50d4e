//! Job kinds decide which stages exist.

use ruhe_core::named;

named! {
    /// What kind of job it is.
    JobKind {
        /// New split, mini-split, multi-head or VRF: the line set is under test.
        NewSplit = "new_split",
        /// Repair on a system that had a charge.
        Repair = "repair",
        /// One circuit of a package unit.
        PackageCircuit = "package_circuit",
        /// A single component on the bench.
        BenchComponent = "bench_component",
        /// A line set left standing before the equipment is there.
        StandingLineSet = "standing_line_set",
        /// No system at all: a rig of the kit, tested alone.
        Kit = "kit",
    }
}

named! {
    /// A stage of the work, in its order.
    Stage {
        /// How it was found; what is recovered.
        Arrive = "arrive",
        /// What is there, rated for what.
        Survey = "survey",
        /// Nitrogen in, settle, hold.
        Hold = "hold",
        /// Find and repair.
        Search = "search",
        /// Let the nitrogen out.
        Release = "release",
        /// Pump and hoses alone.
        RigCheck = "rig_check",
        /// Pump down.
        Evacuate = "evacuate",
        /// Isolate and follow the rise.
        Decay = "decay",
        /// Break the vacuum.
        BreakVacuum = "break_vacuum",
        /// Weigh the charge in.
        Charge = "charge",
        /// Open, start, measure.
        StartUp = "start_up",
        /// Sign.
        SignOff = "sign_off",
    }
}

named! {
    /// Something a person confirms having done, with words.
    Step {
        /// Every valve that bounds the section was checked.
        BoundaryValves = "boundary_valves_checked",
        /// Instruments are in date and in range.
        Instruments = "instruments_in_date",
        /// Bottle, regulator and outlet were looked at before the first gas.
        GasReady = "gas_ready",
        /// Nitrogen released to a slight positive pressure.
        Released = "released",
        /// Refrigerant or a mixture with it recovered into a cylinder.
        Recovered = "recovered",
        /// Pump and rig reached their blank-off.
        RigChecked = "rig_checked",
        /// Power of the compressor locked out while the system is under vacuum.
        LockedOut = "compressor_locked_out",
        /// Vacuum broken, with what, to what pressure.
        VacuumBroken = "vacuum_broken",
        /// Service valves fully open before the power goes on.
        StemsOpen = "stems_open",
        /// Condensate runs, covers on, labels written.
        LeftInOrder = "left_in_order",
        /// A part or a line set that is left: capped, and its label says what is inside.
        Labelled = "capped_and_labelled",
    }
}

impl JobKind {
    /// Whether it is a job on a system; the kit is tested apart.
    #[must_use]
    pub fn is_system(self) -> bool {
        self != Self::Kit
    }
    /// Whether there is oil in it: it has run, or a compressor stands in the section.
    #[must_use]
    pub fn has_oil(self) -> bool {
        matches!(self, Self::Repair | Self::PackageCircuit)
    }
    /// Whether a charge was in it before.
    #[must_use]
    pub fn had_charge(self) -> bool {
        self.stages().contains(&Stage::Arrive)
    }
    /// Name on screen.
    #[must_use]
    pub fn title(self) -> &'static str {
        match self {
            Self::NewSplit => "New split, multi-head or VRF",
            Self::Repair => "Repair on an existing charge",
            Self::PackageCircuit => "One circuit of a package unit",
            Self::BenchComponent => "Component on the bench",
            Self::StandingLineSet => "Line set left standing",
            Self::Kit => "Rig of the kit",
        }
    }
    /// The stages of this kind of job.
    #[must_use]
    pub fn stages(self) -> Vec<Stage> {
        Stage::ALL
            .iter()
            .copied()
            .filter(|s| match self {
                Self::Repair | Self::PackageCircuit => true,
                // Nothing was in it before.
                Self::NewSplit => *s != Stage::Arrive,
                // A bench component has no vacuum; a standing line set no charge.
                Self::BenchComponent => matches!(
                    s,
                    Stage::Survey | Stage::Hold | Stage::Search | Stage::Release | Stage::SignOff
                ),
                Self::StandingLineSet => {
                    !matches!(s, Stage::Arrive | Stage::Charge | Stage::StartUp)
                }
                Self::Kit => *s == Stage::RigCheck,
            })
            .collect()
    }
    /// Whether a vacuum belongs to it.
    #[must_use]
    pub fn has_vacuum(self) -> bool {
        self.stages().contains(&Stage::Decay)
    }
    /// Whether a charge belongs to it.
    #[must_use]
    pub fn has_charge(self) -> bool {
        self.stages().contains(&Stage::Charge)
    }
}

impl Stage {
    /// Name on screen.
    #[must_use]
    pub fn title(self) -> &'static str {
        match self {
            Self::Arrive => "Arrive, recover",
            Self::Survey => "Survey",
            Self::Hold => "Pressure hold",
            Self::Search => "Leak search",
            Self::Release => "Release",
            Self::RigCheck => "Rig check",
            Self::Evacuate => "Evacuate",
            Self::Decay => "Decay test",
            Self::BreakVacuum => "Break vacuum",
            Self::Charge => "Charge",
            Self::StartUp => "Start up",
            Self::SignOff => "Sign-off",
        }
    }
    /// What the button says that leads to it.
    #[must_use]
    pub fn way(self) -> &'static str {
        match self {
            Self::Arrive => "To the arrival",
            Self::Survey => "To the survey",
            Self::Hold => "To the pressure hold",
            Self::Search => "To the leak search",
            Self::Release => "To the release",
            Self::RigCheck => "To the rig check",
            Self::Evacuate => "To the evacuation",
            Self::Decay => "To the decay test",
            Self::BreakVacuum => "To breaking the vacuum",
            Self::Charge => "To the charge",
            Self::StartUp => "To the start-up",
            Self::SignOff => "To the sign-off",
        }
    }
    /// What is to be done there, a sentence.
    #[must_use]
    pub fn task(self) -> &'static str {
        match self {
            Self::Arrive => "Write down how it was found; recover what has to come out.",
            Self::Survey => "Look at valves and instruments, and enter every plate.",
            Self::Hold => "Press up with nitrogen and let it stand.",
            Self::Search => "Look at every joint and port while the pressure is on.",
            Self::Release => "Let the nitrogen out, down to a slight positive pressure.",
            Self::RigCheck => "Blank off pump and hoses and see what they reach.",
            Self::Evacuate => "Lock out the compressor and pull down.",
            Self::Decay => "Shut the valve at the system and watch the vacuum.",
            Self::BreakVacuum => {
                "Break the vacuum to a positive pressure before anything is opened."
            }
            Self::Charge => "Work out what goes in, and weigh it.",
            Self::StartUp => "Start it, and read it once it runs steadily.",
            Self::SignOff => "See what is met and what is not, and sign.",
        }
    }
    /// What is confirmed at this stage.
    #[must_use]
    pub fn steps(self) -> &'static [Step] {
        match self {
            Self::Survey => &[Step::BoundaryValves, Step::Instruments],
            Self::Release => &[Step::Released, Step::Recovered],
            Self::RigCheck => &[Step::RigChecked],
            Self::Evacuate => &[Step::LockedOut],
            Self::BreakVacuum => &[Step::VacuumBroken],
            Self::StartUp => &[Step::StemsOpen, Step::LeftInOrder],
            Self::Hold => &[Step::GasReady],
            Self::SignOff => &[Step::Labelled],
            Self::Arrive | Self::Search | Self::Decay | Self::Charge => &[],
        }
    }
}

impl Step {
    /// Name on screen.
    #[must_use]
    pub fn title(self) -> &'static str {
        match self {
            Self::BoundaryValves => "Boundary valves checked",
            Self::Instruments => "Instruments in date and in range",
            Self::GasReady => {
                "Bottle says NITROGEN, right connection, regulator backed out, relief fitted, bottle upright \
                 and secured, outlet away from people"
            }
            Self::Released => "Nitrogen released, slight positive pressure left",
            Self::Recovered => "Refrigerant or mixture recovered into a cylinder",
            Self::RigChecked => "Pump and rig blanked off and good",
            Self::LockedOut => "Compressor's power locked out while it is under vacuum",
            Self::VacuumBroken => "Vacuum broken to positive pressure",
            Self::StemsOpen => "Service valves fully open, before the power goes on",
            Self::LeftInOrder => "Condensate runs, covers on, labels written",
            Self::Labelled => "Capped, and labelled with what is inside and at what pressure",
        }
    }
    /// Example of a note that says enough.
    #[must_use]
    pub fn hint(self) -> &'static str {
        match self {
            Self::BoundaryValves => "which valves are shut, what stands behind them",
            Self::Instruments => "gauge, range, calibration date",
            Self::GasReady => "which bottle, which regulator",
            Self::Released => "which port, what was left",
            Self::Recovered => "which cylinder, how much, what its label says",
            Self::RigChecked => "what pump and hoses reached",
            Self::LockedOut => "which switch, whose lock",
            Self::VacuumBroken => "with what, to what pressure",
            Self::StemsOpen => "which valves, turned to their stop",
            Self::LeftInOrder => "what the label says, where the water goes",
            Self::Labelled => "what the label says",
        }
    }
}
