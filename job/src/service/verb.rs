//! The verbs about a circuit: by which last part of an address each goes, what it takes, which rule decides. One
//! table for every door, so that none of them knows a verb that another does not, or fills in a name otherwise.

use crate::act::{self, *};
use crate::log::{Deed, Who};
use crate::people::By;
use crate::refusal::Refusal;
use crate::state::Circuit;
use serde::Deserialize;
use serde::de::DeserializeOwned;

/// Who says something, and when.
#[derive(Debug, Clone, Copy)]
pub struct Word<'a> {
    /// As the log takes it.
    pub who: &'a Who,
    /// As what.
    pub by: &'a By,
    /// When it was said, by the keeper's clock, ms since 1970 UTC.
    pub at_ms: i64,
    /// The keeper's clock now.
    pub now_ms: i64,
    /// Whoever signs was asked for their password just now.
    pub is_confirmed: bool,
}

impl Word<'_> {
    /// Who is known here signs under the name they are known by.
    fn signs_as(&self, typed: String) -> String {
        match self.by.role() {
            Some(_) => self.by.name.clone(),
            None => typed,
        }
    }
    /// By whose word a name stands on paper that its bearer did not confirm.
    fn vouches(&self) -> Option<String> {
        self.by.role().map(|_| self.by.name.clone())
    }
}

/// What somebody says about a circuit.
pub trait Verb: DeserializeOwned + Clone {
    /// The last part of its address, `/api/circuits/{id}/…`.
    const NAME: &'static str;
    /// Lets its rule decide.
    ///
    /// # Errors
    /// The refusal of the rule.
    fn decide(self, c: &Circuit, word: &Word<'_>) -> Result<Vec<Deed>, Refusal>;
}

/// Reads a body the way the log reads its entries, so that a phone loads the code for each document once, not twice.
#[derive(Deserialize)]
struct Through<T> {
    #[serde(flatten)]
    inner: T,
}

/// A body as the rules take it.
///
/// # Errors
/// If it cannot be read as one.
pub fn body<T: DeserializeOwned>(value: serde_json::Value) -> Result<T, Refusal> {
    // The page says what the rules ask for; where it does not, the server still names the field.
    serde_json::from_value::<Through<T>>(value)
        .map(|t| t.inner)
        .map_err(|e| Refusal::Wrong {
            field: None,
            message: ruhe_core::reading::fault::plain(&e.to_string()),
        })
}

macro_rules! verbs {
    ($($name:literal $input:ty: |$c:ident, $b:ident, $word:ident| $rule:expr;)*) => {
        /// The last parts of the addresses of all verbs.
        pub const VERBS: &[&str] = &[$($name),*];

        $(impl Verb for $input {
            const NAME: &'static str = $name;
            #[allow(unused_mut)]
            fn decide(self, c: &Circuit, word: &Word<'_>) -> Result<Vec<Deed>, Refusal> {
                let rule = |$c: &Circuit, mut $b: Self, $word: &Word<'_>| $rule;
                rule(c, self, word)
            }
        })*

        /// Lets the verb of this name decide. Nothing: there is none.
        ///
        /// # Errors
        /// If the body cannot be read; the refusal of the rule.
        pub fn said(
            name: &str,
            value: serde_json::Value,
            c: &Circuit,
            word: &Word<'_>,
        ) -> Option<Result<Vec<Deed>, Refusal>> {
            match name {
                $($name => Some(body::<$input>(value).and_then(|b| b.decide(c, word))),)*
                _ => None,
            }
        }
    };
}

verbs! {
    "survey" SurveyInput: |c, b, _word| keep_survey(c, b);
    "steps" StepInput: |c, b, word| confirm(c, &b, word.at_ms);
    "overrides" OverrideInput: |c, b, word| {
        b.may_answer = word.by.may_answer();
        override_gate(c, &b)
    };
    "seen" SeenInput: |c, b, word| see(c, b, word.at_ms);
    "looks" LookInput: |c, b, word| look(c, b, word.at_ms);
    "repairs" RepairInput: |c, b, word| mend(c, b, word.at_ms);
    "arrival" ArrivalInput: |c, b, word| {
        b.may_answer = word.by.may_answer();
        arrive(c, b, word.at_ms)
    };
    "target" TargetInput: |c, b, word| keep_target(c, b, word.at_ms);
    "ledger" RowInput: |c, b, word| weigh(c, b, word.at_ms);
    "ports" PortsInput: |c, b, word| keep_ports(c, b, word.at_ms);
    "vacuum-broken" BreakInput: |c, b, word| break_vacuum(c, b, word.at_ms);
    "sets" SetInput: |c, b, word| measure(c, b, word.at_ms);
    "consents" ConsentInput: |c, b, word| {
        b.said_by = word.vouches();
        consent(c, b, word.at_ms)
    };
    "signature" SignatureInput: |c, b, word| {
        b.name = word.signs_as(b.name);
        sign(c, &b, word.at_ms, word.now_ms)
    };
    "witness" WitnessInput: |c, b, word| {
        // A witness who is known here signs with their own password; a customer who is not signs on this device, by
        // name, and the paper says by whose word.
        if word.is_confirmed {
            b.name = word.signs_as(b.name);
        } else {
            b.said_by = word.vouches();
        }
        countersign(c, &b, word.at_ms, word.now_ms)
    };
    "additions" AdditionInput: |c, b, word| {
        b.name = word.signs_as(b.name);
        add_words(c, &b, word.at_ms, word.now_ms)
    };
    "visits" VisitInput: |c, b, word| come_back(c, &b, word.at_ms);
}

/// What is said of one test.
pub trait TestVerb: DeserializeOwned + Clone {
    /// Lets its rule decide.
    ///
    /// # Errors
    /// The refusal of the rule.
    fn decide(self, c: &Circuit, test: &str, word: &Word<'_>) -> Result<Vec<Deed>, Refusal>;
}

impl TestVerb for EventInput {
    fn decide(self, c: &Circuit, test: &str, word: &Word<'_>) -> Result<Vec<Deed>, Refusal> {
        mark(c, test, &self, word.now_ms)
    }
}

impl TestVerb for ClockInput {
    fn decide(self, c: &Circuit, test: &str, word: &Word<'_>) -> Result<Vec<Deed>, Refusal> {
        act::start_clock(c, test, &self, word.at_ms)
    }
}
