//! A table with one reading a row (time, channel, value), made one with a row a moment and a column a channel: taken
//! as it stands, all channels would be one.

use super::cell::{is_figure, is_status, unit_of};
use super::lines::{Lines, Row};
use super::written::looks_like_time;

/// So many channels at most: more different words are a remark a row.
const CHANNELS: usize = 16;

/// The columns of such a table.
struct Long {
    name: usize,
    value: usize,
    unit: Option<usize>,
}

/// Different texts of a column, in the order they come, if there are few.
fn words<'a>(rows: &[Row<'a>], i: usize) -> Option<Vec<&'a str>> {
    let mut out: Vec<&str> = vec![];
    for r in rows {
        let cell = r.cell(i);
        if !out.contains(&cell) {
            out.push(cell);
        }
        if out.len() > CHANNELS {
            return None;
        }
    }
    Some(out)
}

/// Whether a table has one reading a row: one column of figures, and one of names of which each comes again.
fn long(rows: &[Row<'_>], width: usize) -> Option<Long> {
    let all = |i: usize, is: &dyn Fn(&str) -> bool| rows.iter().all(|r| is(r.cell(i)));
    let most = |i: usize, is: &dyn Fn(&str) -> bool| {
        rows.iter().filter(|r| is(r.cell(i))).count() * 10 >= rows.len() * 9
    };
    let columns = || 0..width;
    let is_name =
        |c: &str| !c.is_empty() && !is_figure(c) && !looks_like_time(c) && unit_of(c).is_none();
    let names: Vec<usize> = columns()
        .filter(|&i| all(i, &is_name) && !all(i, &is_status))
        .filter(|&i| words(rows, i).is_some_and(|w| w.len() > 1 && w.len() * 2 <= rows.len()))
        // A word that stays for a while tells what was going on, not what was read.
        .filter(|&i| {
            let changes = rows.windows(2).filter(|w| w[0].cell(i) != w[1].cell(i));
            changes.count() * 2 >= rows.len() - 1
        })
        .collect();
    let unit = columns().find(|&i| all(i, &|c| unit_of(c).is_some()));
    let time = columns().find(|&i| most(i, &looks_like_time));
    let values: Vec<usize> = columns()
        .filter(|&i| Some(i) != time && most(i, &|c| is_figure(c)))
        .collect();
    match (&names[..], &values[..], time) {
        ([name], [value], Some(_)) => Some((*name, *value)),
        // Elapsed figures come before the values.
        ([name], [_, value], None) => Some((*name, *value)),
        _ => None,
    }
    .map(|(name, value)| Long { name, value, unit })
}

/// The same table with a column a channel, each headed by its name and unit: headings and rows. Nothing: it is none of
/// these.
pub fn widened(lines: &Lines, width: usize, head: &[String]) -> Option<(Vec<String>, Lines)> {
    let rows: Vec<Row<'_>> = lines.iter().collect();
    let of = long(&rows, width)?;
    let names = words(&rows, of.name)?;
    let rest: Vec<usize> = (0..width)
        .filter(|i| *i != of.name && *i != of.value && Some(*i) != of.unit)
        .collect();
    let unit = |name: &str| {
        let first = rows.iter().find(|r| r.cell(of.name) == name);
        first.zip(of.unit).map(|(r, u)| r.cell(u).to_owned())
    };
    let mut out = Lines::default();
    let mut at: Option<(Row<'_>, Vec<&str>)> = None;
    let mut put = |(row, cells): (Row<'_>, Vec<&str>)| {
        let kept = rest.iter().map(|i| row.cell(*i));
        out.push(row.line(), kept.chain(cells));
    };
    for r in &rows {
        let k = names.iter().position(|n| *n == r.cell(of.name))?;
        let is_same = |(row, cells): &(Row<'_>, Vec<&str>)| {
            cells[k].is_empty() && rest.iter().all(|i| row.cell(*i) == r.cell(*i))
        };
        if !at.as_ref().is_some_and(is_same) {
            at.take().map(&mut put);
            at = Some((*r, vec![""; names.len()]));
        }
        if let Some((_, cells)) = &mut at {
            cells[k] = r.cell(of.value);
        }
    }
    at.map(&mut put);
    let heads = rest.iter().map(|i| head[*i].clone());
    let channels = names.iter().map(|n| match unit(n) {
        Some(u) => format!("{n} ({u})"),
        None => (*n).to_owned(),
    });
    Some((heads.chain(channels).collect(), out))
}
