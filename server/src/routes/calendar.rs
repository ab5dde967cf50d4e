//! Due times as an iCalendar file: a locked phone runs no timer of a page, but its own calendar rings.

use crate::drills::Here;
use crate::error::{ApiError, Refusals};
use crate::service::Patience;
use actix_web::{HttpResponse, get, web};
use icalendar::{Alarm, Calendar, Component, Event, EventLike, EventStatus, Trigger};
use jiff::{Timestamp, civil::Date, tz::Offset};
use ruhe_job::state::Circuit;
use ruhe_job::tell::{due_ms, revisit_day};

/// At most this many reminders of one kind are written.
const MOST: i64 = 60;

/// iCalendar's UTC form (RFC 5545, 3.3.5): 20261123T174600Z.
fn stamp(ms: i64) -> String {
    Timestamp::from_millisecond(ms).map_or_else(
        |_| String::new(),
        |t| {
            Offset::UTC
                .to_datetime(t)
                .strftime("%Y%m%dT%H%M%SZ")
                .to_string()
        },
    )
}

/// A text on one line: what an address book or a colleague's calendar would take for a line of its own stays words.
fn line(text: &str) -> String {
    text.chars()
        .map(|c| if c.is_control() { ' ' } else { c })
        .collect()
}

/// A calendar of this name. NAME is written as it stands, so that its signs are escaped here (RFC 5545, 3.3.11); the
/// older name beside it is escaped when it is written.
fn named(name: &str) -> Calendar {
    let mut out = Calendar::empty();
    let mut escaped = String::new();
    for c in line(name).chars() {
        if "\\;,".contains(c) {
            escaped.push('\\');
        }
        escaped.push(c);
    }
    out.append_property(("VERSION", "2.0"))
        .append_property(("PRODID", "-//Ruhe//Ruhe//EN"))
        .append_property(("CALSCALE", "GREGORIAN"));
    out.append_property(("NAME", escaped.as_str()))
        .append_property(("X-WR-CALNAME", line(name).as_str()));
    out
}

/// What the events of one answer share: when it was made, and how far the log had gone. A calendar takes what has the
/// larger number for the newer one.
#[derive(Clone, Copy)]
struct Made {
    now_ms: i64,
    sequence: u32,
}

impl Made {
    fn of(c: &Circuit, now_ms: i64) -> Self {
        Self {
            now_ms,
            sequence: u32::try_from(c.chain.seq).unwrap_or(u32::MAX),
        }
    }

    /// An event without its time; it rings so long after its start.
    fn event(self, uid: &str, text: &str, place: &str, rings: chrono::Duration) -> Event {
        let mut alarm = Alarm::display(&line(text), Trigger::after_start(rings));
        alarm
            .uid(&format!("alarm-{uid}"))
            .add_property("DTSTAMP", stamp(self.now_ms));
        let mut e = Event::new();
        e.uid(uid)
            .summary(&line(text))
            .location(&line(place))
            .sequence(self.sequence)
            .add_property("DTSTAMP", stamp(self.now_ms))
            .alarm(alarm);
        e
    }

    fn reminder(self, uid: &str, at_ms: i64, text: &str, place: &str) -> Event {
        let mut e = self.event(uid, text, place, chrono::Duration::zero());
        e.add_property("DTSTART", stamp(at_ms))
            .add_property("DURATION", "PT5M");
        e.done()
    }

    /// A whole day, wherever the calendar is; it rings at eight in the morning there.
    fn day(self, uid: &str, day: Date, text: &str, place: &str) -> Event {
        let mut e = self.event(uid, text, place, chrono::Duration::hours(8));
        let mut start = icalendar::Property::new("DTSTART", day.strftime("%Y%m%d").to_string());
        start.add_parameter("VALUE", "DATE");
        e.append_property(start);
        e.done()
    }
}

/// When the test is due, its readings, and when the gauge switches itself off.
#[utoipa::path(responses((status = 200, content_type = "text/calendar"), Refusals))]
#[get("/api/tests/{id}/calendar.ics")]
pub async fn calendar(state: Here, id: web::Path<String>) -> Result<HttpResponse, ApiError> {
    let body = state
        .work(move |s| {
            let circuit = s.store.read(|tx| {
                let of = s.circuit_of(tx, &id)?;
                s.circuit(tx, &of, Patience::Unwatched)
            })?;
            let (t, o) = (circuit.must_show(&id)?, &circuit.opened);
            let name = format!("{}, circuit {}: {}", o.system, o.tag, t.title);
            let site = format!("{}, {}", o.site, o.place);
            let mut c = named(&name);
            let made = Made::of(&circuit, s.now_ms());
            let due_uid = format!("{}-due@ruhe", t.id);
            if let Some(at) = t.ended_ms() {
                // A calendar needs an event, and one that took the reminder is told that it is off.
                let mut off = made.reminder(&due_uid, at, &format!("{name} has ended"), &site);
                off.status(EventStatus::Cancelled);
                c.push(off);
                return Ok(c.to_string());
            }
            let due = due_ms(t);
            if let Some(at) = due {
                c.push(made.reminder(&due_uid, at, &format!("{name} is due"), &site));
            }
            let until = due.unwrap_or(t.outline().start_ms.saturating_add(4 * 3_600_000));
            let mut every = |seconds: Option<f64>, kind: &str, text: &str| {
                let Some(step) = seconds.map(|s| (s * 1e3) as i64).filter(|s| *s >= 60_000) else {
                    return;
                };
                let from = t.outline().last_ms().unwrap_or(t.outline().start_ms);
                for k in 1..=(until.saturating_sub(from) / step).clamp(0, MOST) {
                    c.push(made.reminder(
                        &format!("{}-{kind}-{k}@ruhe", t.id),
                        from + k * step,
                        &format!("{name}: {text}"),
                        &site,
                    ));
                }
            };
            every(t.plan.read_every_s, "reading", "reading due");
            every(
                t.plan.auto_off_s.map(|s| (s - 60.0).max(60.0)),
                "gauge",
                "the gauge is about to switch itself off, wake it",
            );
            Ok(c.to_string())
        })
        .await?;
    Ok(HttpResponse::Ok()
        .content_type("text/calendar; charset=utf-8")
        .insert_header(("Content-Disposition", "attachment; filename=\"ruhe.ics\""))
        .body(body))
}

/// The day somebody has to come back to a signed visit.
#[utoipa::path(responses((status = 200, content_type = "text/calendar"), Refusals))]
#[get("/api/circuits/{id}/revisit.ics")]
pub async fn revisit(state: Here, id: web::Path<String>) -> Result<HttpResponse, ApiError> {
    let body = state
        .work(move |s| {
            let c = s.shown(&id)?.circuit;
            let day = revisit_day(&c)
                .ok_or_else(|| ApiError::Missing("nobody has to come back to this one".into()))?;
            let o = &c.opened;
            let name = format!("{}, circuit {}: come back", o.system, o.tag);
            let mut out = named(&name);
            let site = format!("{}, {}", o.site, o.place);
            let made = Made::of(&c, s.now_ms());
            out.push(made.day(&format!("{}-revisit@ruhe", c.id), day, &name, &site));
            Ok(out.to_string())
        })
        .await?;
    Ok(HttpResponse::Ok()
        .content_type("text/calendar; charset=utf-8")
        .insert_header((
            "Content-Disposition",
            "attachment; filename=\"revisit.ics\"",
        ))
        .body(body))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn no_name_is_a_line_of_its_own() {
        let evil = "Gym\r\nEND:VCALENDAR\r\nBEGIN:VEVENT\nSUMMARY:x;y,z\\";
        let mut c = named(evil);
        let made = Made {
            now_ms: 1_777_881_600_000,
            sequence: 3,
        };
        c.push(made.reminder("a@ruhe", made.now_ms, evil, evil));
        let text = c.to_string();
        // Long lines go on in the next, which begins with a blank (RFC 5545, 3.1).
        let lines: Vec<&str> = text.split("\r\n").filter(|l| !l.starts_with(' ')).collect();
        let count = |what: &str| lines.iter().filter(|l| l.starts_with(what)).count();
        assert_eq!(
            (count("END:VCALENDAR"), count("BEGIN:VEVENT")),
            (1, 1),
            "{text}"
        );
        assert_eq!(count("NAME:"), 1, "{text}");
        assert!(text.contains("x\\;y\\,z\\\\"), "{text}");
    }
}
