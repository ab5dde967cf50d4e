//! What is entered without the server: each address as the server has it, and the rule it asks.

use crate::wire::{Reply, Request};
use crate::{Pocket, see};
use ruhe_job::act;
use ruhe_job::act::{
    AdditionInput, ConsentInput, EventInput, OverrideInput, ReadingsInput, SignatureInput, Stock,
    StrikeInput, TestInput, WitnessInput,
};
use ruhe_job::charge::ScaleInput;
use ruhe_job::kit::{in_use, must_be_free};
use ruhe_job::log::{Deed, Who};
use ruhe_job::people::{Asked, asked};
use ruhe_job::refusal::Refusal;
use ruhe_job::state::Circuit;
use ruhe_job::tell::{
    Created, StoredView, additional, corrected, enough, nitrogen, pull_time, read_mass, retest,
    rise, saturation, tried_arrival, tried_set, tried_stop, tried_target, volume,
};

/// What needs the server, in words.
const NOT_HERE: &str = "this needs the server, and it cannot be reached now";

/// The address as the rules write it.
fn pattern(path: &[&str]) -> String {
    let parts: Vec<&str> = path
        .iter()
        .enumerate()
        .map(|(i, p)| match (i, path.get(i.wrapping_sub(1))) {
            (2, Some(&("circuits" | "tests" | "readings"))) => "{id}",
            (4, Some(&("entries" | "overrides"))) => "{entry}",
            _ => *p,
        })
        .collect();
    format!("/{}", parts.join("/"))
}

/// Does what is asked.
///
/// # Errors
/// The refusal of the rule, as the server would give it.
pub fn act(
    p: &mut Pocket,
    path: &[&str],
    r: &Request,
    bytes: &[u8],
    now: i64,
) -> Result<Reply, Refusal> {
    match asked(&r.method, &pattern(path)) {
        Some(Asked::Right(right)) => p.by(r)?.must(right)?,
        Some(_) => {}
        None => return Err(Refusal::Missing("address".into())),
    }
    let at = r.at(now);
    match (r.method.as_str(), path) {
        ("POST", ["api", "circuits", id, "tried", what]) => tried(p, id, what, r, at),
        ("POST", ["api", "bench", what]) => bench(what, r),
        ("PUT", ["api", "circuits", id, "survey"]) => {
            let b = r.read()?;
            decided(p, id, r, now, |c, _| act::keep_survey(c, b))?;
            see::survey(p, id)
        }
        ("POST", ["api", "circuits", id, "tests"]) => plan(p, id, r, now),
        ("POST", ["api", "circuits", id, "photos"]) => {
            decided(p, id, r, now, |c, _| act::take_photo(c, bytes))
        }
        ("POST", ["api", "circuits", id, "entries", entry, "strike"]) => {
            let (b, by) = (r.read()?, p.by(r)?);
            decided(p, id, r, now, |c, _| act::strike(c, entry, &b, &by))
        }
        ("POST", ["api", "circuits", id, "overrides", entry, "approval"]) => {
            decided(p, id, r, now, |c, _| act::approve(c, entry))
        }
        ("POST", ["api", "circuits", id, verb]) => circuit(p, id, verb, r, now),
        ("POST", ["api", "tests", id, verb]) => test(p, id, verb, r, now),
        ("POST", ["api", "readings", id, "strike"]) => strike_reading(p, id, r, now),
        _ => Err(Refusal::Conflict(NOT_HERE.into())),
    }
}

/// One of the verbs that take a body and decide about a circuit.
fn circuit(p: &mut Pocket, id: &str, verb: &str, r: &Request, now: i64) -> Result<Reply, Refusal> {
    macro_rules! rule {
        ($rule:expr) => {{
            let b = r.read()?;
            decided(p, id, r, now, |c, at| $rule(c, b, at))
        }};
    }
    match verb {
        "steps" => rule!(|c, b, at| act::confirm(c, &b, at)),
        "overrides" => {
            let (mut b, by): (OverrideInput, _) = (r.read()?, p.by(r)?);
            b.may_answer = by.may_answer();
            decided(p, id, r, now, |c, _| act::override_gate(c, &b))
        }
        "seen" => rule!(act::see),
        "looks" => rule!(act::look),
        "repairs" => rule!(act::mend),
        "arrival" => {
            let (mut b, by): (act::ArrivalInput, _) = (r.read()?, p.by(r)?);
            b.may_answer = by.may_answer();
            decided(p, id, r, now, |c, at| act::arrive(c, b, at))
        }
        "target" => rule!(act::keep_target),
        "ledger" => rule!(act::weigh),
        "ports" => rule!(act::keep_ports),
        "vacuum-broken" => rule!(act::break_vacuum),
        "sets" => rule!(act::measure),
        "consents" => {
            let (mut b, by): (ConsentInput, _) = (r.read()?, p.by(r)?);
            b.said_by = by.role().map(|_| by.name);
            decided(p, id, r, now, |c, at| act::consent(c, b, at))
        }
        "additions" => {
            let (mut b, by): (AdditionInput, _) = (r.read()?, p.by(r)?);
            if by.role().is_some() {
                b.name = by.name;
            }
            decided(p, id, r, now, |c, at| act::add_words(c, &b, at, now))
        }
        "visits" => rule!(|c, b, at| act::come_back(c, &b, at)),
        "witness" => {
            let (mut b, by): (WitnessInput, _) = (r.read()?, p.by(r)?);
            b.said_by = by.role().map(|_| by.name);
            decided(p, id, r, now, |c, at| act::countersign(c, &b, at, now))
        }
        "signature" => {
            let mut b: SignatureInput = r.read()?;
            let by = p.by(r)?;
            if by.role().is_some() {
                b.name = by.name;
            }
            decided(p, id, r, now, |c, at| act::sign(c, &b, at, now))
        }
        _ => Err(Refusal::Conflict(NOT_HERE.into())),
    }
}

fn who(p: &Pocket, r: &Request) -> Result<Who, Refusal> {
    let by = p.by(r)?;
    Ok(Who {
        id: r.id.clone(),
        actor: by.name,
        device: by.device,
        said_ms: r.said_ms,
    })
}

fn created(id: &str) -> Result<Reply, Refusal> {
    Reply::of(201, &Created { id: id.into() })
}

/// Lets a rule decide about a circuit, and keeps what it says until the server has the last word.
fn decided(
    p: &mut Pocket,
    id: &str,
    r: &Request,
    now: i64,
    rule: impl FnOnce(&Circuit, i64) -> Result<Vec<Deed>, Refusal>,
) -> Result<Reply, Refusal> {
    act::check_id("Ruhe-Id", &r.id)?;
    let who = who(p, r)?;
    let held = p.held(id)?;
    if held.knows(&r.id) {
        return created(&r.id);
    }
    let deeds = rule(&held.circuit()?, r.at(now))?;
    held.append(&who, now, deeds)?;
    created(&r.id)
}

fn plan(p: &mut Pocket, id: &str, r: &Request, now: i64) -> Result<Reply, Refusal> {
    let b: TestInput = r.read()?;
    let rig = b.plan.rig.as_ref().and_then(|x| x.rig_id.clone());
    let rig = p.rig(rig.as_deref())?;
    let mut others = vec![];
    for held in p.circuits.values() {
        others.extend(in_use(&held.circuit()?));
    }
    let (kit, procedures, units) = (p.kit.clone(), p.procedures.own.clone(), r.units());
    let own = r.id.clone();
    decided(p, id, r, now, |c, at| {
        let stock = Stock {
            kit: &kit,
            rig: rig.as_ref(),
            procedures: &procedures,
        };
        let deeds = act::plan_test(c, b, stock, &own, at, units)?;
        for d in &deeds {
            if let Deed::Planned(x) = d {
                must_be_free(&c.id, &x.plan.used, &others)?;
            }
        }
        Ok(deeds)
    })
}

fn test(p: &mut Pocket, id: &str, verb: &str, r: &Request, now: i64) -> Result<Reply, Refusal> {
    let of = p.circuit_of(id)?;
    match verb {
        "readings" => {
            let (b, by): (ReadingsInput, _) = (r.read()?, p.by(r)?);
            let held = p.held(&of)?;
            let batch = act::read(&held.circuit()?, id, &b, &by, now)?;
            let skewed = batch.iter().filter(|l| l.skewed).count();
            let (new, known) = held.add_readings(id, batch);
            Reply::of(201, &StoredView { new, known, skewed })
        }
        "events" => {
            let b: EventInput = r.read()?;
            let r = Request {
                id: b.id.clone(),
                ..r.clone()
            };
            decided(p, &of, &r, now, |c, _| act::mark(c, id, &b, now))
        }
        "clock" => {
            let b = r.read()?;
            decided(p, &of, r, now, |c, at| act::start_clock(c, id, &b, at))
        }
        "end" => {
            let (who, at) = (who(p, r)?, r.at(now));
            let held = p.held(&of)?;
            let c = held.circuit()?;
            let (found, seal) = held.judged(c.must_have(id)?);
            let deed = act::end(&c, id, &found, seal, at)?;
            held.append(&who, now, deed.into_iter().collect())?;
            Reply::of(201, &serde_json::Value::Null)
        }
        _ => Err(Refusal::Conflict(NOT_HERE.into())),
    }
}

fn strike_reading(p: &mut Pocket, id: &str, r: &Request, now: i64) -> Result<Reply, Refusal> {
    let (b, by, who): (StrikeInput, _, _) = (r.read()?, p.by(r)?, who(p, r)?);
    let missing = || Refusal::Missing("reading on this device".into());
    let held = p.circuits.values_mut().find(|h| h.reading(id).is_some());
    let held = held.ok_or_else(missing)?;
    let (test, old) = held.reading(id).ok_or_else(missing)?;
    let (test, old) = (test.to_owned(), old.clone());
    let c = held.circuit()?;
    let (deeds, instead) = act::strike_reading(&c, &test, &old, &b, &r.id, (&by, now))?;
    held.add_readings(&test, instead.into_iter().collect());
    held.append(&who, now, deeds)?;
    Reply::of(201, &serde_json::Value::Null)
}

fn tried(p: &mut Pocket, id: &str, what: &str, r: &Request, at: i64) -> Result<Reply, Refusal> {
    let c = p.held(id)?.circuit()?;
    match what {
        "arrival" => {
            let b: act::ArrivalInput = r.read()?;
            Reply::of(200, &tried_arrival(&c, &b.arrival, at)?)
        }
        "target" => {
            let b: act::TargetInput = r.read()?;
            Reply::of(200, &tried_target(&c, &b.target)?)
        }
        "stop" => Reply::of(200, &tried_stop(&c, &r.read::<ScaleInput>()?)?),
        "set" => {
            let b: act::SetInput = r.read()?;
            Reply::of(200, &tried_set(&c, &b.set, at)?)
        }
        _ => Err(Refusal::Conflict(NOT_HERE.into())),
    }
}

fn bench(what: &str, r: &Request) -> Result<Reply, Refusal> {
    match what {
        "corrected" => Reply::of(200, &corrected(&r.read()?)?),
        "enough" => Reply::of(200, &enough(&r.read()?)?),
        "nitrogen" => Reply::of(200, &nitrogen(&r.read()?)?),
        "volume" => Reply::of(200, &volume(&r.read()?)?),
        "retest" => Reply::of(200, &retest(&r.read()?)?),
        "mass" => Reply::of(200, &read_mass(&r.read()?)?),
        "saturation" => Reply::of(200, &saturation(&r.read()?)?),
        "rise" => Reply::of(200, &rise(&r.read()?)?),
        "pull" => Reply::of(200, &pull_time(&r.read()?)?),
        "additional" => Reply::of(200, &additional(&r.read()?)?),
        _ => Err(Refusal::Conflict(NOT_HERE.into())),
    }
}
