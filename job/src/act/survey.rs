//! Keeping a survey; taking a photo.

use crate::log::{Deed, sha256};
use crate::refusal::Refusal;
use crate::state::Circuit;
use crate::survey::{SectionDoc, SurveyDoc, with_ids};
use serde::Deserialize;

/// The next version of a survey.
#[derive(Debug, Clone, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SurveyInput {
    /// All of it.
    pub survey: SurveyDoc,
    /// The version it was made from.
    pub version: i64,
}

/// Keeps a new version of the survey; the old ones stay.
///
/// # Errors
/// What is wrong in it, with its field; a version that is no longer the last.
pub fn keep_survey(c: &Circuit, mut b: SurveyInput) -> Result<Vec<Deed>, Refusal> {
    c.must_be_open()?;
    b.survey.parse()?;
    if b.version != c.version {
        return Err(Refusal::Conflict(
            "the survey was changed on another device meanwhile; load it again".into(),
        ));
    }
    with_ids("joints", &mut b.survey.joints, &c.doc.joints, b.version + 1)?;
    with_ids("valves", &mut b.survey.valves, &c.doc.valves, b.version + 1)?;
    for s in &c.doc.sections {
        let stays = |n: &SectionDoc| n.name.trim() == s.name.trim();
        if !b.survey.sections.iter().any(stays)
            && let Some(work) = c.work_in(&s.name)
        {
            return Err(Refusal::wrong(
                "sections",
                format!("{work} is about “{}”: it stays, under its name", s.name),
            ));
        }
    }
    Ok(vec![Deed::Surveyed {
        version: b.version + 1,
        survey: b.survey,
    }])
}

/// What kind of picture these bytes are.
#[must_use]
pub fn picture(bytes: &[u8]) -> Option<&'static str> {
    match bytes {
        [0xff, 0xd8, 0xff, ..] => Some("image/jpeg"),
        [0x89, b'P', b'N', b'G', ..] => Some("image/png"),
        _ if bytes.starts_with(b"RIFF") && bytes.get(8..12) == Some(b"WEBP") => Some("image/webp"),
        _ => None,
    }
}

/// Most points of a photo: what phones take, and what can be printed.
const POINTS: usize = 50_000_000;

/// Takes a photo (JPEG, PNG or WebP) of something of a circuit.
///
/// # Errors
/// If it is no such picture, or the circuit is signed.
pub fn take_photo(c: &Circuit, bytes: &[u8]) -> Result<Vec<Deed>, Refusal> {
    c.must_be_open()?;
    photo(bytes)
}

/// Takes a photo of a certificate, for the kit.
///
/// # Errors
/// If it is no picture.
pub fn photo(bytes: &[u8]) -> Result<Vec<Deed>, Refusal> {
    let mime = picture(bytes)
        .ok_or_else(|| Refusal::wrong("photo", "this is not a JPEG, PNG or WebP picture"))?;
    // A picture of some kilobytes may be of a size that nobody can draw.
    let size = imagesize::blob_size(bytes)
        .map_err(|_| Refusal::wrong("photo", "this picture cannot be read: its head is damaged"))?;
    if size.width.saturating_mul(size.height) > POINTS {
        return Err(Refusal::wrong(
            "photo",
            format!(
                "{} by {} points are too many; at most {} million: take it smaller",
                size.width,
                size.height,
                POINTS / 1_000_000
            ),
        ));
    }
    Ok(vec![Deed::PhotoTaken {
        mime: mime.into(),
        bytes: bytes.len() as u64,
        sha256: sha256(bytes),
    }])
}
