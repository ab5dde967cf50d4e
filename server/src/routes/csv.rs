//! Loggers' files: what one seems to be, what it would give when it is read as said, and taking it as a finished test.

use super::files::start_of;
use crate::body::{Body, Raw};
use crate::drills::Here;
use crate::error::{ApiError, Refusals};
use crate::lock::lock;
use crate::query::UnitsQuery;
use crate::service::Said;
use crate::state::AppState;
use actix_web::{HttpResponse, post, web};
use jiff::tz::{Offset, TimeZone};
use ruhe_core::quantity::Units;
use ruhe_core::reading::{
    Answers, Channel, Kind, LoggerFile, LoggerMapping, MappedColumn, Question, Recording, Remark,
    doubts,
};
use ruhe_job::plan::{ChannelInput, Plan, PlanInput};
use ruhe_job::tell::{
    ChoiceView, ColumnView, Created, FileLook, FileView, QuestionView, TakenColumn, TakenView,
};
use serde::Deserialize;
use std::sync::Arc;
use utoipa::{IntoParams, ToSchema};

#[derive(Debug, Clone, Deserialize, ToSchema)]
pub struct CsvColumn {
    pub heading: String,
    pub channel: ChannelInput,
}

#[derive(Debug, Clone, Deserialize, ToSchema)]
pub struct CsvImport {
    /// Of the file, as it was told when that was sent.
    pub token: String,
    pub kind: Kind,
    pub plan: PlanInput,
    pub time_heading: String,
    /// Heading of the date's column, where the time column holds only the time of day.
    pub date_heading: Option<String>,
    /// Where the logger stood, as in the list of time zones: Europe/Berlin. For stamps without an offset.
    pub zone: Option<String>,
    /// The same in minutes east of UTC, all year round.
    pub offset_minutes: Option<i32>,
    /// Where the file may be read in two ways.
    #[serde(default)]
    pub answers: Answers,
    pub columns: Vec<CsvColumn>,
    /// What looks odd about it is right.
    #[serde(default)]
    pub is_sure: bool,
}

#[derive(Debug, Deserialize, IntoParams)]
pub struct CsvQuery {
    /// Name of the file.
    pub file: String,
}

fn question(q: Question) -> QuestionView {
    QuestionView {
        about: q.about,
        words: q.words,
        choices: q
            .choices
            .into_iter()
            .map(|c| ChoiceView {
                code: c.code,
                words: c.words,
                gives: None,
            })
            .collect(),
    }
}

/// Takes a logger's file as it is, to be looked at, and guesses what its columns are. It is held for a while; nothing
/// is kept of it.
#[utoipa::path(params(CsvQuery), request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 200, body = FileView), Refusals))]
#[post("/api/csv")]
pub async fn csv_columns(
    state: Here,
    q: web::Query<CsvQuery>,
    body: Raw,
) -> Result<web::Json<FileView>, ApiError> {
    let (token, found) = state
        .work(move |s| {
            let (token, file) = {
                let _alone = lock(&s.importing);
                s.held.keep(&q.file, &body.0)?
            };
            Ok::<_, ApiError>((token, file.understood()))
        })
        .await?;
    let columns = found.columns.into_iter().map(|g| ColumnView {
        heading: g.heading,
        is_time: g.is_time,
        is_date: g.is_date,
        quantity: g.quantity,
        unit: g.unit,
        example: g.example,
    });
    Ok(web::Json(FileView {
        token,
        columns: columns.collect(),
        words: found.words,
        shape: found.shape,
        sample: found.sample,
    }))
}

/// A file with how it was said to be read.
struct Told {
    file: Arc<LoggerFile>,
    kind: Kind,
    plan: Plan,
    mapping: LoggerMapping,
}

impl Told {
    fn of(s: &AppState, b: &CsvImport) -> Result<Self, ApiError> {
        let said = b.plan.clone().of_kind(b.kind)?;
        said.check()?;
        let file = s.held.find(&b.token).ok_or_else(|| {
            ApiError::wrong("token", "this file is no longer held: choose it again")
        })?;
        let columns = b
            .columns
            .iter()
            .map(|c| {
                Ok(MappedColumn {
                    heading: c.heading.clone(),
                    channel: c.channel.parse()?,
                })
            })
            .collect::<Result<Vec<_>, ApiError>>()?;
        let mut mapping = LoggerMapping {
            time_heading: b.time_heading.clone(),
            date_heading: b.date_heading.clone(),
            zone: TimeZone::UTC,
            answers: b.answers,
            columns,
        };
        mapping.zone = match (b.zone.as_deref().map(str::trim), b.offset_minutes) {
            (Some(name), _) if !name.is_empty() => TimeZone::get(name)
                .map_err(|_| ApiError::wrong("zone", format!("“{name}” is no time zone")))?,
            (_, Some(minutes)) => minutes
                .checked_mul(60)
                .and_then(|s| Offset::from_seconds(s).ok())
                .map(Offset::to_time_zone)
                .ok_or_else(|| {
                    ApiError::wrong(
                        "offset_minutes",
                        format!("{minutes} minutes are no time zone"),
                    )
                })?,
            _ if file.open(&mapping)?.needs_place => {
                return Err(ApiError::wrong(
                    "zone",
                    "its times carry no offset: say where the logger stood",
                ));
            }
            _ => TimeZone::UTC,
        };
        let thinned = b.answers.every.map(|n| Remark::Thinned {
            every: n,
            file: file.name().to_owned(),
        });
        Ok(Self {
            kind: b.kind,
            plan: Plan {
                imported_from: Some(file.name().to_owned()),
                remarks: thinned.into_iter().collect(),
                ..said
            },
            file,
            mapping,
        })
    }

    /// What it gives when it is read with these answers: how many rows the logger marked as wrong, and what looks odd.
    fn read(&self, answers: Answers) -> Result<(Recording, usize, Vec<String>), ApiError> {
        let mapping = LoggerMapping {
            answers,
            ..self.mapping.clone()
        };
        let taken = self.file.read(&mapping)?;
        let channels: Vec<_> = mapping.columns.into_iter().map(|c| c.channel).collect();
        let odd = doubts(&taken.readings, &channels, self.kind);
        let recording = Recording {
            settings: self.plan.settings(self.kind),
            channels,
            readings: taken.readings,
            events: vec![],
            start_ms: taken.start_ms,
            duplicates: taken.duplicates,
            remarks: vec![],
        };
        Ok((recording, taken.bad, odd))
    }

    /// The same with the verdict it would have on a circuit.
    fn tried(
        &self,
        s: &AppState,
        circuit: &str,
        answers: Answers,
        (said, units): (&Said, Units),
    ) -> Result<TakenView, ApiError> {
        let (recording, bad, odd) = self.read(answers)?;
        let from = (start_of(&recording), "imported");
        let v = s.tried(circuit, &recording, self.plan.clone(), from, (said, units))?;
        let all = &recording.readings;
        let column = |(k, c): (usize, &Channel)| {
            let of = || all.iter().filter(move |r| r.channel == k).map(|r| r.value);
            TakenColumn {
                heading: c.name.clone(),
                first: of().next(),
                last: of().next_back(),
            }
        };
        Ok(TakenView {
            start_ms: recording.start_ms,
            lasts_s: all.iter().map(|r| r.at_s).fold(0.0, f64::max),
            readings: all.len(),
            duplicates: recording.duplicates,
            bad,
            columns: recording.channels.iter().enumerate().map(column).collect(),
            word: v.word,
            headline: v.headline,
            doubts: odd,
        })
    }
}

/// What a logger's CSV would give when it is read as said: nothing is kept. What may be read in two ways comes back
/// with what either gives.
#[utoipa::path(params(UnitsQuery), request_body = CsvImport, responses((status = 200, body = FileLook), Refusals))]
#[post("/api/circuits/{id}/csv/look")]
pub async fn csv_look(
    state: Here,
    id: web::Path<String>,
    q: web::Query<UnitsQuery>,
    said: Said,
    body: Body<CsvImport>,
) -> Result<web::Json<FileLook>, ApiError> {
    let (circuit, b, units) = (id.into_inner(), body.into_inner(), q.units());
    let view = state
        .work(move |s| {
            let told = Told::of(s, &b)?;
            let open = told.file.open(&told.mapping)?;
            let by = (&said, units);
            let asked = open.questions.into_iter();
            let questions = asked.filter(|q| !b.answers.has(q.about)).map(|q| {
                let mut view = question(q);
                for c in &mut view.choices {
                    let answers = b.answers.with(view.about, &c.code);
                    c.gives = told.tried(s, &circuit, answers, by).ok();
                }
                view
            });
            let questions: Vec<QuestionView> = questions.collect();
            let gives = if questions.is_empty() {
                Some(told.tried(s, &circuit, b.answers, by)?)
            } else {
                None
            };
            Ok::<_, ApiError>(FileLook {
                questions,
                needs_place: open.needs_place,
                gives,
            })
        })
        .await?;
    Ok(web::Json(view))
}

/// Takes a logger's CSV as confirmed, as a finished test.
#[utoipa::path(request_body = CsvImport, responses((status = 201, body = Created), Refusals))]
#[post("/api/circuits/{id}/csv")]
pub async fn csv_in(
    state: Here,
    id: web::Path<String>,
    said: Said,
    body: Body<CsvImport>,
) -> Result<HttpResponse, ApiError> {
    let (circuit, b) = (id.into_inner(), body.into_inner());
    let of = circuit.clone();
    let test = state
        .work(move |s| {
            let told = Told::of(s, &b)?;
            let (recording, _, odd) = told.read(b.answers)?;
            if !odd.is_empty() && !b.is_sure {
                let message = format!("{} Take it if that is right.", odd.join(" "));
                return Err(ApiError::wrong("is_sure", message));
            }
            let from = (start_of(&recording), "imported");
            s.take_recording(&of, &recording, told.plan, from, (&said, None))
        })
        .await?;
    state.changed(&circuit, Some(&test));
    Ok(HttpResponse::Created().json(Created { id: test }))
}
