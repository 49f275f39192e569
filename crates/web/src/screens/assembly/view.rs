//! An assembly as it is shown.

use crate::assessed::Assessed;
use crate::choices::{self, Choice, Group};
use crate::error::AppError;
use askama::Template;
use fenlo_core::assembly::{Around, Fault, Member, Start, Train, chain_between, faults};
use fenlo_core::catalogue::{PartEnd, PartRole, Seal};
use fenlo_core::plan::{AssemblyPlace, PartIs, Valve};
use fenlo_core::units::{Flow, Pressure, UnitSystem};
use fenlo_core::zone::{WalkPart, ZoneAssessment};
use fenlo_words as words;

#[derive(Template)]
#[template(path = "assembly.html")]
struct Page<'a> {
    job: i64,
    u: UnitSystem,
    valves: Vec<Choice>,
    valve: &'a str,
    name: &'a str,
    empty: bool,
    listed: bool,
    drawing: String,
    rows: Vec<Row>,
    starts: Vec<Choice>,
    parts: Vec<Group>,
    before: Vec<Choice>,
    stands: Vec<Choice>,
    height: String,
    room: String,
    supported: bool,
    length: String,
    wrong: usize,
    tap: bool,
    ends: Vec<Choice>,
}

/// A part with what is to be said of it.
struct Row {
    /// Place in the plan's list.
    at: usize,
    first: bool,
    last: bool,
    label: String,
    why: &'static str,
    joined: String,
    seals: Vec<Choice>,
    left: String,
    cost: String,
    reversed: bool,
    /// Its own set point can be typed.
    sets: bool,
    set: String,
    faults: Vec<(String, String)>,
    /// Fittings that would join it to what stands before it.
    bridge: String,
}

const STANDS: [AssemblyPlace; 4] =
    [AssemblyPlace::Box, AssemblyPlace::Riser, AssemblyPlace::Tap, AssemblyPlace::Tank];

pub fn body(known: &Assessed, pick: Option<&str>) -> Result<String, AppError> {
    let job = known.job();
    let u = job.units;
    let valve = pick.and_then(|id| job.valve(id)).or(job.valves.first());
    let Some(valve) = valve else {
        return Ok(blank(known).render()?);
    };
    let train = Train::of(job.catalogue(), valve);
    let zone = known.assessment.zone(&valve.id).and_then(|z| z.zone.as_deref().ok());
    let around = Around {
        at_rest: zone.map_or(Pressure::ZERO, |z| z.standing.before),
        flow: zone.map_or(Flow::ZERO, |z| z.flow),
        top: zone.map(|z| z.top_over_valve),
        room: job.rules.regulator_room,
    };
    let found = faults(&train, &valve.assembly, &around);
    let metres: f64 = train.members.iter().map(|m| m.length.m()).sum();
    Ok(Page {
        valves: choices::valves(job, Some(&valve.id)),
        valve: &valve.id,
        name: &valve.name,
        empty: false,
        listed: Train::is_listed(&valve.assembly),
        drawing: fenlo_drawing::assembly(&train, &found, u),
        rows: rows(known, valve, &train, &found, zone),
        parts: parts(known, valve),
        before: before(&train),
        stands: (STANDS.iter())
            .map(|s| Choice {
                value: choices::word(s),
                label: words::stands(*s).to_owned(),
                chosen: *s == valve.assembly.stands,
            })
            .collect(),
        height: valve.assembly.height.map_or_else(String::new, |h| h.show_tape(u)),
        room: valve.assembly.room.map_or_else(String::new, |r| r.show_tape(u)),
        supported: valve.assembly.supported,
        length: fenlo_core::units::Length::from_m(metres).show_tape(u),
        wrong: found.len(),
        tap: valve.assembly.stands == AssemblyPlace::Tap,
        ..blank(known)
    }
    .render()?)
}

fn blank(known: &Assessed) -> Page<'_> {
    let starts = Start::ALL.iter().map(|s| Choice {
        value: s.word().to_owned(),
        label: words::start(*s).to_owned(),
        chosen: false,
    });
    Page {
        job: known.open.id,
        u: known.job().units,
        valves: Vec::new(),
        valve: "",
        name: "",
        empty: true,
        listed: false,
        drawing: String::new(),
        rows: Vec::new(),
        starts: starts.collect(),
        parts: Vec::new(),
        before: Vec::new(),
        stands: Vec::new(),
        height: String::new(),
        room: String::new(),
        supported: false,
        length: String::new(),
        wrong: 0,
        tap: false,
        ends: ends(known),
    }
}

fn rows(
    known: &Assessed,
    valve: &Valve,
    train: &Train,
    found: &[Fault],
    zone: Option<&ZoneAssessment>,
) -> Vec<Row> {
    let u = known.job().units;
    let n = train.members.len();
    let mut walk = zone.map_or(&[][..], |z| &z.walk[..]).iter().filter(|s| is_part(&s.part));
    let row = |(i, m): (usize, &Member)| {
        let before = i.checked_sub(1).and_then(|b| train.members[b].outlet.as_ref());
        let ends = before.zip(m.inlet.as_ref());
        let fits = ends.and_then(|(a, b)| a.seal_to(b));
        let joined = match (ends, fits, m.role) {
            (_, _, PartRole::End) => "at the end of the tubing".to_owned(),
            (None, ..) => String::new(),
            (_, Some(seal), _) => words::seal(m.sealed.unwrap_or(seal)).to_owned(),
            (Some((a, b)), None, _) => {
                format!("{} to {}: do not match", words::part_end(a), words::part_end(b))
            }
        };
        let bridge = ends.filter(|_| fits.is_none()).and_then(|(a, b)| {
            let chain = chain_between(known.job().catalogue(), a, b)?;
            let names: Vec<String> =
                chain.into_iter().filter(|j| j.part.is_some()).map(|j| j.label).collect();
            Some(names.join(", then "))
        });
        let mine = found.iter().filter(|f| f.at == i);
        let step = (m.loss.is_some() && m.role != PartRole::Run).then(|| walk.next()).flatten();
        Row {
            at: m.place.unwrap_or(i),
            first: i == 0,
            last: i + 1 == n,
            label: m.label.clone(),
            why: words::part_why(m.role, valve.assembly.stands),
            joined,
            seals: seals(m.sealed),
            left: step.map_or_else(String::new, |s| s.left.show(u)),
            cost: step.map_or_else(String::new, |s| (-s.cost).show(u)),
            reversed: m.reversed,
            sets: m.role == PartRole::Regulator && matches!(m.is, PartIs::Part(_)),
            set: m.set.map_or_else(String::new, |s| s.show_round(u)),
            faults: mine.map(|f| words::assembly_fault(&f.fault, u)).collect(),
            bridge: bridge.unwrap_or_default(),
        }
    };
    train.members.iter().enumerate().map(row).collect()
}

fn is_part(part: &WalkPart) -> bool {
    matches!(
        part,
        WalkPart::Valve | WalkPart::Filter | WalkPart::Regulator | WalkPart::Part(_) | WalkPart::Preset(_)
    )
}

fn seals(chosen: Option<Seal>) -> Vec<Choice> {
    let as_it_is =
        Choice { value: String::new(), label: "default for these ends".into(), chosen: chosen.is_none() };
    let all = [
        (Seal::Tape, "tape"),
        (Seal::Washer, "washer"),
        (Seal::Nothing, "nothing"),
        (Seal::Cement, "cement"),
    ];
    let others = all.into_iter().map(|(seal, label)| Choice {
        value: choices::word(&seal),
        label: label.into(),
        chosen: chosen == Some(seal),
    });
    std::iter::once(as_it_is).chain(others).collect()
}

/// Parts that may be put in, by what they do; the zone's own first where they are not listed.
fn parts(known: &Assessed, valve: &Valve) -> Vec<Group> {
    let listed = |is: &PartIs| valve.assembly.parts.iter().any(|p| p.is == *is);
    let choice =
        |value: &str, label: &str| Choice { value: value.to_owned(), label: label.to_owned(), chosen: false };
    let mut own = Vec::new();
    if valve.filter.is_some() && !listed(&PartIs::Filter) {
        own.push(choice("own-filter", "Filter of this zone"));
    }
    if matches!(valve.regulation, fenlo_core::plan::Regulation::Inline { .. }) && !listed(&PartIs::Regulator)
    {
        own.push(choice("own-regulator", "Regulator of this zone"));
    }
    let of = |label: &'static str, roles: &[PartRole]| Group {
        label: label.into(),
        options: (known.job().catalogue().parts.iter())
            .filter(|p| roles.contains(&p.role))
            .map(|p| choice(&p.id, &p.label))
            .collect(),
    };
    let mut groups = vec![
        of(
            "at a hose bib",
            &[
                PartRole::Source,
                PartRole::Splitter,
                PartRole::Arrester,
                PartRole::Breaker,
                PartRole::Cartridge,
            ],
        ),
        of("Filters and regulators", &[PartRole::Filter, PartRole::Regulator]),
        of("joints", &[PartRole::Joint, PartRole::SwingJoint, PartRole::Transition, PartRole::Isolation]),
        of("Along the line", &[PartRole::Run, PartRole::Pump, PartRole::Header, PartRole::Manifold]),
        of("At the ends", &[PartRole::End]),
    ];
    if !own.is_empty() {
        groups.insert(0, Group { label: "its own".into(), options: own });
    }
    groups
}

fn before(train: &Train) -> Vec<Choice> {
    let at = |(i, m): (usize, &Member)| Choice {
        value: m.place.unwrap_or(i).to_string(),
        label: format!("before {} {}", i + 1, m.label),
        chosen: false,
    };
    let end = Choice { value: train.members.len().to_string(), label: "at the end".into(), chosen: true };
    train.members.iter().enumerate().map(at).chain(std::iter::once(end)).collect()
}

#[derive(Template)]
#[template(path = "parts/joint.html")]
struct Joint {
    fault: String,
    /// Fittings in order with how the joint before each is made; the last is the far end.
    chain: Vec<(String, &'static str)>,
}

/// All ends of the catalogue, each once.
fn ends(known: &Assessed) -> Vec<Choice> {
    let parts = &known.job().catalogue().parts;
    let mut all: Vec<Choice> = Vec::new();
    for end in parts.iter().flat_map(|p| [&p.inlet, &p.outlet]).flatten() {
        let value = end.to_string();
        if !all.iter().any(|c| c.value == value) {
            all.push(Choice { value, label: words::part_end(end), chosen: false });
        }
    }
    all.sort_by(|a, b| a.label.cmp(&b.label));
    all
}

/// The shortest chain of fittings from one end to another.
pub fn joint(known: &Assessed, from: &str, to: &str) -> Result<String, AppError> {
    let read = |text: &str| text.parse::<PartEnd>().map_err(|e| e.to_string());
    let found = read(from).and_then(|a| Ok((a, read(to)?)));
    let page = match found {
        Err(fault) => Joint { fault, chain: Vec::new() },
        Ok((a, b)) => match chain_between(known.job().catalogue(), &a, &b) {
            None => Joint { fault: "No fitting in the catalog joins these two.".into(), chain: Vec::new() },
            Some(chain) => Joint {
                fault: String::new(),
                chain: (chain.into_iter())
                    .map(|j| {
                        let far = j.part.is_none();
                        let name = if far { words::part_end(&b) } else { j.label };
                        (name, words::seal(j.seal))
                    })
                    .collect(),
            },
        },
    };
    Ok(page.render()?)
}
