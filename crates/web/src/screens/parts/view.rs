//! The list of parts as it is shown.

use crate::assessed::Assessed;
use crate::error::AppError;
use crate::place::{Here, Screen};
use crate::screens::{findings, verdict};
use askama::Template;
use fenlo_core::remedies::Diagnosis;
use fenlo_core::takeoff::{CutList, LineKind, Takeoff, setting_out};
use fenlo_core::units::UnitSystem;
use fenlo_drawing::board::board_inline;
use fenlo_words as words;
use fenlo_words::Working;

#[derive(Template)]
#[template(path = "parts.html")]
struct Page {
    job: i64,
    sections: Vec<Section>,
    missing: Vec<String>,
    /// What is wrong or open in the whole job.
    checks: String,
    /// Joints that can't be made, as findings; empty where there are none.
    unmade: String,
    cuts: Vec<Cut>,
    rows: Vec<RowLine>,
    micro: Vec<(String, String, usize)>,
    trenches: Vec<Trench>,
    dug: Option<Dug>,
    sheets: Vec<Sheet>,
    own: Vec<(String, String)>,
    plan: String,
    drawn: bool,
    count: usize,
}

struct Section {
    title: &'static str,
    lines: Vec<Line>,
}

struct Line {
    part: String,
    text: String,
    bought: String,
    by_hand: bool,
    said: String,
    note: String,
    from: String,
    places: usize,
    how: Vec<Working>,
}

struct Cut {
    title: String,
    bars: usize,
    best: bool,
    bound: usize,
    left: String,
    groups: Vec<(String, usize, String)>,
    plans: Vec<(String, String)>,
}

struct RowLine {
    group: String,
    length: String,
    first: String,
    emitters: u32,
    count: usize,
}

struct Trench {
    id: String,
    legs: String,
    length: String,
    width: String,
    depth: String,
    by_hand: String,
    hours: String,
}

struct Dug {
    length: String,
    by_hand: String,
    hours: String,
    spoil: String,
    crossings: usize,
}

struct Sheet {
    name: String,
    stick: String,
    heads: Vec<[String; 5]>,
}

pub fn body(known: &Assessed, _pick: Option<&str>) -> Result<String, AppError> {
    let job = known.job();
    let u = job.units;
    let found = known.taken();
    let sections: Vec<Section> = LineKind::ALL
        .iter()
        .map(|kind| Section { title: words::section(*kind), lines: lines(known, found, *kind) })
        .filter(|s| !s.lines.is_empty())
        .collect();
    let name = |id: &str| job.group(id).map_or_else(String::new, |g| g.name.clone());
    let dig = &found.digging;
    let own = job.parts.own().map(|l| (l.id.clone(), l.text.clone())).collect();
    Ok(Page {
        job: known.open.id,
        count: found.lines.len(),
        sections,
        missing: found.missing.iter().map(|m| words::not_counted(m, job)).collect(),
        checks: verdict::render(known)?,
        unmade: joints(known, found)?,
        cuts: found.cuts.iter().map(|c| cut(c, job)).collect(),
        rows: found
            .rows
            .iter()
            .map(|r| RowLine {
                group: name(&r.group),
                length: r.length.show_tape(u),
                first: r.first.show_tape(u),
                emitters: r.emitters,
                count: r.count,
            })
            .collect(),
        micro: found.micro.iter().map(|m| (name(&m.group), m.length.show_tape(u), m.count)).collect(),
        trenches: dig
            .rows
            .iter()
            .map(|t| Trench {
                id: t.id.clone(),
                legs: t.legs.join(" "),
                length: t.length.show(u),
                width: words::depth(t.width, u),
                depth: words::depth(t.depth, u),
                by_hand: if t.by_hand.m() > 0.05 { t.by_hand.show(u) } else { String::new() },
                hours: format!("{:.1} h", t.hours),
            })
            .collect(),
        dug: (!dig.rows.is_empty()).then(|| Dug {
            length: dig.length().show_whole(u),
            by_hand: dig.by_hand().show_whole(u),
            hours: format!("{:.1} h", dig.hours),
            spoil: spoil(dig.spoil_m3(), u),
            crossings: dig.crossings.len(),
        }),
        sheets: sheets(known),
        own,
        drawn: job.site.objects.len() > 1,
        plan: board_inline(job, &known.assessment),
    }
    .render()?)
}

fn joints(known: &Assessed, found: &Takeoff) -> Result<String, AppError> {
    let all = found.findings(known.job()).into_iter();
    let all: Vec<Diagnosis> = all.map(|(_, finding)| Diagnosis { finding, remedies: Vec::new() }).collect();
    if all.is_empty() {
        return Ok(String::new());
    }
    let here = Here::at(Screen::Parts).word();
    Ok(findings::render(known.open.id, known.job(), here, "", &all)?)
}

fn spoil(m3: f64, u: UnitSystem) -> String {
    if u.is_metric() { format!("{m3:.1} m³") } else { format!("{:.1} yd³", m3 * 1.307_951) }
}

fn lines(known: &Assessed, found: &Takeoff, kind: LineKind) -> Vec<Line> {
    let job = known.job();
    found
        .section(kind)
        .map(|l| {
            let said = job.parts.of(&l.part);
            Line {
                part: l.part.clone(),
                text: words::part_name(l, job),
                bought: words::bought(l, job.units),
                by_hand: l.is_by_hand(),
                said: said.map_or_else(String::new, |s| words::quantity(s.quantity)),
                note: said.map_or_else(String::new, |s| s.text.clone()),
                places: l.from.len(),
                from: l.from.join(" "),
                how: words::why_so_many(l, job),
            }
        })
        .collect()
}

fn cut(list: &CutList, job: &fenlo_core::job::Job) -> Cut {
    let u = job.units;
    let tape = |l: fenlo_core::units::Length| l.show_tape(u);
    Cut {
        title: format!("{} {}", words::cut_label(list, job), list.size),
        bars: list.bars.len(),
        bound: list.bound,
        best: list.bars.len() == list.bound,
        left: tape(list.left()),
        groups: list
            .grouped()
            .into_iter()
            .map(|(length, n, first)| (tape(length), n, first.map_or_else(String::new, tape)))
            .collect(),
        plans: list
            .bars
            .iter()
            .map(|bar| {
                let pieces: Vec<String> = bar.pieces.iter().map(|p| tape(list.pieces[*p].length)).collect();
                (tape(bar.length), pieces.join(" + "))
            })
            .collect(),
    }
}

fn sheets(known: &Assessed) -> Vec<Sheet> {
    let u = known.job().units;
    setting_out(known.job())
        .into_iter()
        .map(|s| Sheet {
            name: s.name,
            stick: s.stick.map_or_else(String::new, |l| l.show_tape(u)),
            heads: s
                .heads
                .iter()
                .map(|h| {
                    [
                        h.number.to_string(),
                        h.flag.map_or_else(|| "none".into(), |f| f.to_string()),
                        corner(h.corner),
                        h.along.show_tape(u),
                        if h.off.m() > 0.0 { h.off.show_tape(u) } else { "on the edge".into() },
                    ]
                })
                .collect(),
        })
        .collect()
}

/// Corners are called by letters.
fn corner(n: usize) -> String {
    let letter = char::from(b'A' + (n % 26) as u8);
    match n / 26 {
        0 => letter.to_string(),
        round => format!("{letter}{round}"),
    }
}
