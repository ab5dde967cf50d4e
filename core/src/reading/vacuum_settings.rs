//! What a package says of an evacuation, its rig and what the rig gives off.

use super::package::{DESCRIPTOR, positive, seconds};
use super::{Fault, PullStage, RigPart, RigShare, Settings};
use crate::flow::Rig;
use serde_json::{Map, Value};

/// Reads `part`, `stages`, `rig` and `rig_share` of the object "ruhe".
pub fn read(ruhe: &Map<String, Value>, out: &mut Settings) -> Result<(), Fault> {
    let get = |name: &str| ruhe.get(name).filter(|v| !v.is_null());
    let fault =
        |name: &str, message: String| Fault::field(DESCRIPTOR, &format!("ruhe.{name}"), message);
    if let Some(v) = get("part") {
        let code = v.as_str().unwrap_or_default();
        out.part = Some(RigPart::from_code(code).ok_or_else(|| {
            fault(
                "part",
                format!("“{code}” is not one of {}", RigPart::codes()),
            )
        })?);
    }
    for (i, v) in get("stages")
        .and_then(Value::as_array)
        .into_iter()
        .flatten()
        .enumerate()
    {
        let name = |f: &str| format!("stages[{i}].{f}");
        let target = v
            .get("target")
            .ok_or_else(|| fault(&name("target"), "is missing".into()))?;
        let stage = PullStage {
            target_pa: positive(target, &name("target"), true)?,
            break_pa: v
                .get("break")
                .filter(|b| !b.is_null())
                .map(|b| positive(b, &name("break"), true))
                .transpose()?,
            dwell_s: v
                .get("dwell_s")
                .filter(|d| d.as_f64() != Some(0.0))
                .map(|d| seconds(d, &name("dwell_s")))
                .transpose()?
                .unwrap_or(0.0),
        };
        out.stages.push(stage);
    }
    if let Some(v) = get("rig") {
        let rig: Rig = serde_json::from_value(v.clone())
            .map_err(|e| fault("rig", format!("cannot be read: {e}")))?;
        let tubes = rig
            .line
            .iter()
            .map(|r| [r.tube.bore, r.tube.length, r.side_by_side]);
        let is_sound = tubes
            .flatten()
            .chain([rig.pump.speed])
            .all(|x| x.is_finite() && x > 0.0)
            && rig.pump.ultimate.is_finite()
            && rig.pump.ultimate >= 0.0;
        if !is_sound {
            return Err(fault(
                "rig",
                "bores, lengths, numbers and the pump’s speed must be positive".into(),
            ));
        }
        out.rig = Some(rig);
    }
    if let Some(v) = get("rig_share") {
        let number = |f: &str| {
            v.get(f)
                .and_then(Value::as_f64)
                .filter(|x| x.is_finite())
                .ok_or_else(|| fault(&format!("rig_share.{f}"), "a number is missing".into()))
        };
        let volume_l = number("volume_l")?;
        if volume_l <= 0.0 {
            return Err(fault("rig_share.volume_l", "must be positive".into()));
        }
        let test = v
            .get("test")
            .and_then(Value::as_str)
            .unwrap_or("a rig check")
            .into();
        out.rig_share = Some(RigShare {
            low_pa_s: number("low_pa_s")?,
            high_pa_s: number("high_pa_s")?,
            volume_l,
            test,
        });
    }
    Ok(())
}
