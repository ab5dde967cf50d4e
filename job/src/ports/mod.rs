//! Ports, joints made today, the drier: the register that says whether a circuit is closed.
//!
//! It is one document in versions, like the survey: a new version replaces the old one, which is kept. A core that is
//! in another place than in the version before was moved.

use crate::refusal::{Refusal, filled};
use crate::survey::Typed;
use ruhe_core::named;
use serde::{Deserialize, Serialize};

named! {
    /// Where a valve core is.
    #[derive(Default)]
    Core {
        /// In its port.
        #[default]
        Fitted = "fitted",
        /// Taken out.
        Out = "out",
        /// A new one in its port.
        Replaced = "replaced",
        /// It cannot come out.
        Stuck = "cannot_come_out",
        /// The port has none.
        None = "none",
    }
}

named! {
    /// How a core went back.
    #[derive(Default)]
    Refitted {
        /// It was never out, or is not back yet.
        #[default]
        Not = "not",
        /// At positive pressure.
        Positive = "positive_pressure",
        /// Inside a sealed core tool, under vacuum.
        Sealed = "sealed_tool",
    }
}

named! {
    /// What leak fluid on a port showed.
    #[derive(Default)]
    Bubbles {
        /// Nobody looked.
        #[default]
        NotLooked = "not_looked",
        /// Clear.
        Clear = "clear",
        /// Bubbles.
        Bubbles = "bubbles",
    }
}

named! {
    /// A service valve's stem.
    #[derive(Default)]
    Stem {
        /// The port has none.
        #[default]
        None = "none",
        /// Fully open.
        Open = "open",
        /// Shut.
        Shut = "shut",
    }
}

named! {
    /// Whether nitrogen flowed while a joint was brazed.
    #[derive(Default)]
    Purge {
        /// It was not brazed, or nobody said.
        #[default]
        NotSaid = "not_said",
        /// It flowed.
        Yes = "yes",
        /// It did not.
        No = "no",
    }
}

named! {
    /// The drier.
    #[derive(Default)]
    DrierState {
        /// Nobody said.
        #[default]
        NotSaid = "not_said",
        /// There is none by design.
        ByDesign = "none_by_design",
        /// A new one.
        Replaced = "replaced",
        /// The old one stayed.
        Kept = "kept",
    }
}

impl PortSide {
    /// Name on screen.
    #[must_use]
    pub fn title(self) -> &'static str {
        match self {
            Self::High => "high side",
            Self::Low => "low side",
        }
    }
}
impl Core {
    /// Name on screen.
    #[must_use]
    pub fn title(self) -> &'static str {
        match self {
            Self::Fitted => "in",
            Self::Out => "out",
            Self::Replaced => "a new one in",
            Self::Stuck => "cannot come out",
            Self::None => "has none",
        }
    }
}
impl Refitted {
    /// Name on screen.
    #[must_use]
    pub fn title(self) -> &'static str {
        match self {
            Self::Not => "never removed",
            Self::Positive => "at positive pressure",
            Self::Sealed => "in a sealed tool",
        }
    }
}
impl Bubbles {
    /// Name on screen.
    #[must_use]
    pub fn title(self) -> &'static str {
        match self {
            Self::NotLooked => "not looked at",
            Self::Clear => "clear",
            Self::Bubbles => "bubbles",
        }
    }
}
impl Stem {
    /// Name on screen.
    #[must_use]
    pub fn title(self) -> &'static str {
        match self {
            Self::None => "has none",
            Self::Open => "fully open",
            Self::Shut => "shut",
        }
    }
}
impl Purge {
    /// Name on screen.
    #[must_use]
    pub fn title(self) -> &'static str {
        match self {
            Self::NotSaid => "not said",
            Self::Yes => "nitrogen flowed",
            Self::No => "without nitrogen",
        }
    }
}
impl DrierState {
    /// Name on screen.
    #[must_use]
    pub fn title(self) -> &'static str {
        match self {
            Self::NotSaid => "not said",
            Self::ByDesign => "none, by design",
            Self::Replaced => "replaced",
            Self::Kept => "the old one stayed",
        }
    }
}

named! {
    /// The side of the circuit a port is on.
    PortSide {
        /// Liquid, discharge.
        High = "high",
        /// Suction.
        Low = "low",
    }
}

/// A port.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default)]
#[allow(missing_docs)]
pub struct PortDoc {
    /// It stays when the port is renamed; empty: a new one.
    pub id: String,
    pub name: String,
    /// Which side it is on; none: nobody said.
    pub side: Option<PortSide>,
    /// 1/4 in, 5/16 in, in words.
    pub thread: String,
    pub core: Core,
    pub has_tool: bool,
    pub refitted: Refitted,
    pub bubbles: Bubbles,
    /// How long it was looked at, s.
    pub dwell_s: Option<f64>,
    /// Cap with its seal on.
    pub is_capped: bool,
    pub stem: Stem,
    pub cap_torque: Option<Typed>,
}

/// How a joint of the survey was brazed.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default)]
#[allow(missing_docs)]
pub struct BrazedDoc {
    pub name: String,
    pub purge: Purge,
    /// Why not.
    pub why: String,
}

/// The register.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default)]
#[allow(missing_docs)]
pub struct PortsDoc {
    pub ports: Vec<PortDoc>,
    pub joints: Vec<BrazedDoc>,
    pub drier: DrierState,
    /// Arrow, one-way or bi-flow, in words.
    pub drier_words: String,
}

/// Fluid stays on a core so long, s (common practice, no source).
pub const CORE_DWELL_S: f64 = 60.0;

impl PortDoc {
    /// The same port as another version has it.
    #[must_use]
    pub fn is_the_same(&self, o: &Self) -> bool {
        if self.id.is_empty() || o.id.is_empty() {
            self.name.trim() == o.name.trim()
        } else {
            self.id == o.id
        }
    }
    /// What it still needs, in words; nothing: it is closed, clear and capped. `looked_s`: how long the search looked
    /// at it with fluid since its core was last moved, and found it clear.
    #[must_use]
    pub fn missing(&self, looked_s: Option<f64>) -> Vec<&'static str> {
        let is_long = |s: Option<f64>| s.is_some_and(|s| s >= CORE_DWELL_S);
        let mut out = vec![];
        if self.core == Core::Out {
            out.push("core out");
        }
        match self.bubbles {
            Bubbles::Bubbles => out.push("it bubbles"),
            _ if is_long(looked_s) || (self.bubbles == Bubbles::Clear && is_long(self.dwell_s)) => {
            }
            Bubbles::NotLooked => out.push("not looked at"),
            Bubbles::Clear if self.dwell_s.is_none() => {
                out.push("how long it was looked at is not said")
            }
            Bubbles::Clear => out.push("looked at for less than a minute"),
        }
        if !self.is_capped {
            out.push("no cap");
        }
        out
    }
}

impl PortsDoc {
    /// What a circuit usually has, before anybody wrote anything down.
    #[must_use]
    pub fn usual() -> Self {
        let port = |id: &str, name: &str, side, thread: &str| PortDoc {
            id: id.into(),
            name: name.into(),
            side: Some(side),
            thread: thread.into(),
            ..PortDoc::default()
        };
        Self {
            ports: vec![
                port("0.0", "suction service port", PortSide::Low, "5/16 in"),
                port("0.1", "liquid service port", PortSide::High, "1/4 in"),
            ],
            ..Self::default()
        }
    }

    /// Checks what was written down.
    ///
    /// # Errors
    /// What cannot be, with its field.
    pub fn check(&self) -> Result<(), Refusal> {
        if self.ports.is_empty() {
            return Err(Refusal::wrong(
                "ports",
                "a circuit that was tested has at least one port",
            ));
        }
        for (i, p) in self.ports.iter().enumerate() {
            let at = |f: &str| format!("ports.{i}.{f}");
            filled(&at("name"), &p.name, 120)?;
            if p.dwell_s.is_some_and(|s| !(s.is_finite() && s >= 0.0)) {
                return Err(Refusal::wrong(&at("dwell_s"), "this cannot be below zero"));
            }
            if let Some(t) = p.cap_torque.as_ref().filter(|t| !t.typed.trim().is_empty()) {
                crate::survey::newton_metres(t).map_err(|e| e.within(&at("cap_torque")))?;
            }
        }
        for (i, j) in self.joints.iter().enumerate() {
            if j.purge == Purge::No && j.why.trim().is_empty() {
                return Err(Refusal::wrong(
                    &format!("joints.{i}.why"),
                    "say why it was brazed without nitrogen",
                ));
            }
        }
        Ok(())
    }

    /// Ports whose core is in another place than before.
    #[must_use]
    pub fn moved(&self, before: &Self) -> Vec<&PortDoc> {
        self.ports
            .iter()
            .filter(|p| {
                before
                    .ports
                    .iter()
                    .any(|o| o.is_the_same(p) && o.core != p.core)
            })
            .collect()
    }

    /// What is not as it should be and prints, in words.
    #[must_use]
    pub fn deviations(&self) -> Vec<String> {
        let brazed = self
            .joints
            .iter()
            .filter(|j| j.purge == Purge::No)
            .map(|j| {
                format!(
                    "{} was brazed without nitrogen: {}.",
                    j.name,
                    j.why.trim().trim_end_matches('.')
                )
            });
        let stuck = self
            .ports
            .iter()
            .filter(|p| p.core == Core::Stuck)
            .map(|p| format!("The core of the {} cannot come out.", p.name));
        brazed.chain(stuck).collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn closed(name: &str) -> PortDoc {
        PortDoc {
            name: name.into(),
            bubbles: Bubbles::Clear,
            dwell_s: Some(90.0),
            is_capped: true,
            ..PortDoc::default()
        }
    }

    #[test]
    fn a_port_is_closed_clear_and_capped() {
        assert!(closed("suction").missing(None).is_empty());
        let open = PortDoc {
            core: Core::Out,
            bubbles: Bubbles::NotLooked,
            is_capped: false,
            ..closed("suction")
        };
        assert_eq!(open.missing(None), ["core out", "not looked at", "no cap"]);
        assert_eq!(
            PortDoc {
                dwell_s: Some(20.0),
                ..closed("x")
            }
            .missing(None),
            ["looked at for less than a minute"]
        );
        assert_eq!(
            PortDoc {
                bubbles: Bubbles::Bubbles,
                ..closed("x")
            }
            .missing(None),
            ["it bubbles"]
        );
    }

    #[test]
    fn a_core_elsewhere_than_before_was_moved() {
        let before = PortsDoc {
            ports: vec![closed("suction"), closed("liquid")],
            ..PortsDoc::default()
        };
        let mut after = before.clone();
        after.ports[1].core = Core::Out;
        let moved: Vec<&str> = after.moved(&before).iter().map(|p| &*p.name).collect();
        assert_eq!(moved, ["liquid"]);
        assert!(before.moved(&before).is_empty());
    }

    #[test]
    fn without_nitrogen_needs_a_reason_and_prints() {
        let with = |why: &str| PortsDoc {
            joints: vec![BrazedDoc {
                name: "tee at the attic".into(),
                purge: Purge::No,
                why: why.into(),
            }],
            ..PortsDoc::usual()
        };
        assert!(
            with("")
                .check()
                .unwrap_err()
                .to_string()
                .contains("without nitrogen")
        );
        with("the bottle was empty").check().unwrap();
        assert!(with("the bottle was empty").deviations()[0].contains("the bottle was empty"));
        assert!(PortsDoc::default().check().is_err());
    }
}
