//! Keeping things of the kit, and what a plan takes from them.

use crate::kit::{KitDoc, KitKind, KitUsed, RigChecked, rig_of};
use crate::log::{Deed, Opened};
use crate::plan::Plan;
use crate::procedure::JobKind;
use crate::refusal::Refusal;
use crate::state::{Circuit, KitState, KitThing};
use crate::survey::{SectionDoc, SurveyDoc};
use ruhe_core::judge::Finding;
use ruhe_core::reading::{RigPart, RigShare};

/// Keeps a thing of the kit; a known id is its next version.
///
/// # Errors
/// What cannot be used, with its field.
pub fn keep_kit(kit: &KitState, id: &str, doc: KitDoc) -> Result<Vec<Deed>, Refusal> {
    let doc = KitDoc {
        name: doc.name.trim().into(),
        ..doc
    };
    doc.check()?;
    if kit.find(id).is_some_and(|t| t.doc.kind != doc.kind) {
        return Err(Refusal::wrong("kind", "a thing stays what it is"));
    }
    if doc
        .certificate_photo
        .as_ref()
        .is_some_and(|p| !kit.photos.contains(p))
    {
        return Err(Refusal::wrong(
            "certificate_photo",
            "there is no such photo in the kit",
        ));
    }
    let sender = |d: &KitDoc| d.sends.clone().filter(|_| !d.is_retired);
    let other = kit
        .things
        .iter()
        .find(|t| t.id != id && sender(&t.doc).is_some() && sender(&t.doc) == sender(&doc));
    if let Some(t) = other {
        return Err(Refusal::wrong(
            "sends",
            format!("“{}” sends so already", t.doc.name),
        ));
    }
    let can_be_part =
        |kind: KitKind| matches!(kind, KitKind::Pump | KitKind::Hose | KitKind::CoreTool);
    let is_part = |p: &String| kit.find(p).is_some_and(|t| can_be_part(t.doc.kind));
    if !doc.parts.iter().all(is_part) {
        return Err(Refusal::wrong(
            "parts",
            "a rig is made of pumps, hoses and core tools of the kit",
        ));
    }
    let is_same = |t: &KitThing| {
        t.id != id && t.doc.kind == doc.kind && t.doc.name == doc.name && !t.doc.is_retired
    };
    if kit.things.iter().any(is_same) {
        return Err(Refusal::wrong(
            "name",
            format!(
                "the kit has a {} called “{}” already",
                doc.kind.code().replace('_', " "),
                doc.name
            ),
        ));
    }
    Ok(vec![Deed::KitKept {
        item: id.into(),
        doc,
    }])
}

/// A rig's tests hang on a circuit of its own, with the rig's id.
#[must_use]
pub fn shelf(kit: &KitState, name: &str) -> Vec<Deed> {
    let rigs = kit
        .things
        .iter()
        .filter(|t| t.doc.kind == KitKind::Rig)
        .count();
    let opened = Opened {
        site_id: "kit".into(),
        site: "Kit".into(),
        place: String::new(),
        system_id: "rigs".into(),
        system: "Rigs".into(),
        model: String::new(),
        serial: String::new(),
        tag: format!("R{}", rigs + 1),
        name: name.trim().into(),
        job: JobKind::Kit,
        refrigerant: "none".into(),
        safety_class: String::new(),
        scope: "pump, hoses and tools alone".into(),
        volume_l: None,
    };
    let survey = SurveyDoc {
        sections: vec![SectionDoc {
            name: "the rig".into(),
            ..SectionDoc::default()
        }],
        ..SurveyDoc::default()
    };
    vec![Deed::Opened(opened), Deed::Surveyed { version: 1, survey }]
}

/// What the hoses of a rig give off, as its last check told.
fn share_of(rig: &Circuit, litres: Option<f64>) -> Option<RigShare> {
    rig.tests.iter().rev().find_map(|t| match t.finding() {
        Finding::RigCheck(v) if t.is_over() && v.part == RigPart::Hoses => {
            let (low_pa_s, high_pa_s) = v.rate?;
            Some(RigShare {
                low_pa_s,
                high_pa_s,
                volume_l: t.plan.volume_l.or(litres)?,
                test: t.title.clone(),
            })
        }
        _ => None,
    })
}

/// The plan with what it uses of the kit as it is now, the rig put together, and what the rig gives off: so that
/// neither record nor verdict changes when the kit does.
///
/// # Errors
/// If something it names is not in the kit.
pub fn with_kit(
    c: &Circuit,
    mut plan: Plan,
    kit: &KitState,
    rig: Option<&Circuit>,
) -> Result<Plan, Refusal> {
    let find = |id: &String| {
        kit.find(id)
            .ok_or_else(|| Refusal::wrong("kit", "there is no such thing in the kit"))
    };
    // A rig's own check is of that rig.
    if c.job() == JobKind::Kit {
        plan.rig.get_or_insert_default().rig_id = Some(c.id.clone());
    }
    let mut ids = std::mem::take(&mut plan.kit);
    let rig_id = plan.rig.as_ref().and_then(|r| r.rig_id.clone());
    if let Some(id) = &rig_id {
        ids.push(id.clone());
        ids.extend(find(id)?.doc.parts.clone());
    }
    ids.dedup();
    plan.used.clear();
    let mut docs: Vec<KitDoc> = Vec::new();
    for id in &ids {
        let thing = find(id)?;
        docs.push(thing.doc.clone());
        if plan.used.iter().any(|u| u.id == *id) {
            continue;
        }
        // A record that used a rig prints what its last check was worth.
        let own = rig.filter(|r| r.id == *id);
        plan.used.push(KitUsed {
            id: id.clone(),
            doc: thing.doc.clone(),
            checked: own.and_then(RigChecked::of),
        });
    }
    let assembled = plan
        .rig
        .as_ref()
        .map(|how| rig_of(&docs, how))
        .transpose()?
        .flatten();
    let litres = assembled.as_ref().map(|a| a.1);
    if c.job() == JobKind::Kit {
        plan.volume_l = plan.volume_l.or(litres);
    }
    if plan.hoses_in && rig_id.is_some() {
        plan.rig_share = rig.and_then(|r| share_of(r, litres));
    }
    plan.assembled = assembled.map(|a| a.0);
    plan.kit = ids;
    Ok(plan)
}
