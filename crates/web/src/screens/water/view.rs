//! Water as it is shown.

use super::read;
use crate::assessed::Assessed;
use crate::choices::{self, Choice};
use crate::error::AppError;
use crate::place::{Here, Screen};
use crate::screens::findings;
use askama::Template;
use fenlo_core::assess::SupplyAssessment;
use fenlo_core::catalogue::{Catalogue, Role};
use fenlo_core::chain::Chain as SharedChain;
use fenlo_core::findings::store_need;
use fenlo_core::plan::{ChainPart, ReadingKind, Supply, WaterSource};
use fenlo_core::units::{Flow, Pressure, UnitSystem};
use fenlo_core::verdict::Subject;
use fenlo_core::water::ZoneFlow;
use fenlo_core::zone::pipe_volume;
use fenlo_drawing::{CurveDrawing, supply_curve};
use fenlo_words::Working;

#[derive(Template)]
#[template(path = "water.html")]
struct Page {
    job: i64,
    supplies: Vec<Choice>,
    source: String,
    readings: String,
    chain: String,
    design: String,
    curve: String,
    findings: String,
}

#[derive(Template)]
#[template(path = "parts/water_source.html")]
struct Source<'a> {
    u: UnitSystem,
    job: i64,
    supply: &'a str,
    name: &'a str,
    kinds: Vec<Choice>,
    kind: &'static str,
    gauge_height: String,
    curve: String,
    potable: bool,
    height: String,
    cut_in: String,
    cut_out: String,
    pump_flow: String,
    least: String,
    can_remove: bool,
    stock: String,
    over: String,
    volume: String,
    roof: String,
    battery_watts: String,
    /// Store and fertiliser, figure by figure.
    figures: Vec<(String, String, Working)>,
}

#[derive(Template)]
#[template(path = "parts/readings.html")]
struct Readings<'a> {
    u: UnitSystem,
    job: i64,
    supply: &'a str,
    kind: &'static str,
    mains: bool,
    rows: Vec<ReadingRow>,
}

struct ReadingRow {
    index: usize,
    form: String,
    kind: &'static str,
    title: &'static str,
    pressure: String,
    flow: String,
    volume: String,
    time: String,
    when: String,
    instrument: String,
    place: String,
}

#[derive(Template)]
#[template(path = "parts/chain.html")]
struct Chain<'a> {
    u: UnitSystem,
    job: i64,
    supply: &'a str,
    street: bool,
    /// Where the gauge stood is not said, and matters.
    asks: bool,
    rows: Vec<PartRow>,
    gauge: Vec<Choice>,
    adds: Vec<Choice>,
}

struct PartRow {
    id: String,
    form: String,
    kind: &'static str,
    title: &'static str,
    options: Vec<Choice>,
    length: String,
    rise: String,
    set: String,
    loss: String,
    note: String,
}

#[derive(Template)]
#[template(path = "parts/design.html")]
struct Design<'a> {
    job: i64,
    supply: &'a str,
    number: String,
    unit: &'static str,
    says: String,
    working: Working,
    schools: Vec<SchoolRow>,
    zones: Vec<ZoneRow>,
}

/// What a valve may take for its own pressure.
struct ZoneRow {
    name: String,
    flow: String,
    says: String,
}

struct SchoolRow {
    name: String,
    value: String,
    flow: String,
    says: String,
    workings: Vec<Working>,
    chosen: bool,
    pinned: bool,
    can_pin: bool,
}

#[derive(Template)]
#[template(path = "parts/curve.html")]
struct CurvePart {
    fault: Option<String>,
    svg: String,
    points: Vec<(String, String, String)>,
    at_source: &'static str,
    thumb: String,
    working: Option<Working>,
}

pub fn kind(water: &WaterSource) -> &'static str {
    match water {
        WaterSource::Street => "street",
        WaterSource::Tap => "tap",
        WaterSource::Pump { .. } => "pump",
        WaterSource::Well { .. } => "well",
        WaterSource::Tank { .. } => "tank",
    }
}

pub fn find<'a>(
    known: &'a Assessed,
    id: Option<&str>,
) -> Result<(&'a Supply, &'a SupplyAssessment), AppError> {
    let plan = known.job();
    let supply = match id {
        Some(id) => plan.supply(id),
        None => plan.supplies.first(),
    };
    let supply = supply.ok_or(AppError::NotFound)?;
    Ok((supply, known.assessment.supply(&supply.id).ok_or(AppError::NotFound)?))
}

pub fn body(known: &Assessed, pick: Option<&str>) -> Result<String, AppError> {
    // Undo may have taken the picked connection away.
    let (supply, water) = find(known, pick).or_else(|_| find(known, None))?;
    Ok(Page {
        job: known.open.id,
        supplies: choices::supplies(known.job(), &supply.id),
        source: source(known, supply)?,
        readings: readings(known, supply)?,
        chain: chain(known, supply, water)?,
        design: design(known, supply, water)?,
        curve: curve(known, water)?,
        findings: checks(known, supply, water)?,
    }
    .render()?)
}

/// What store and fertiliser come to.
fn extras(known: &Assessed, supply: &Supply) -> Vec<(String, String, Working)> {
    let job = known.job();
    let u = job.units;
    let on = |v: &&fenlo_core::plan::Valve| v.supply == supply.id;
    let zones: Vec<_> = (job.valves.iter().filter(on))
        .filter_map(|v| Some((v, known.assessment.zone(&v.id)?)))
        .filter_map(|(v, z)| Some((v, z.inputs.as_ref()?, z.zone.as_ref().ok()?)))
        .collect();
    let mut all = Vec::new();
    let mean = zones.iter().map(|z| z.2.flow).sum::<Flow>() * (1.0 / zones.len().max(1) as f64);
    if let (Some(store), Some(need)) = (supply.store, store_need(job, supply, mean)) {
        let figures = fenlo_words::store_figures(&store, &need, u);
        all.extend(figures.into_iter().map(|(label, value, working)| (label.to_owned(), value, working)));
    }
    if let Some(injection) = supply.injection {
        for (valve, inputs, zone) in zones.iter().take(40) {
            let working = fenlo_words::injection_working(&injection, zone.flow, pipe_volume(inputs), u);
            let label = format!("Fertilizer, {} {}", job.valve_number(&valve.id), valve.name);
            all.push((label, working.result.clone(), working));
        }
    }
    all
}

pub fn source(known: &Assessed, supply: &Supply) -> Result<String, AppError> {
    let u = known.job().units;
    let (mut curve, mut potable, mut cut_in, mut cut_out, mut pump_flow) = Default::default();
    let (mut least, mut height) = (String::new(), String::new());
    match &supply.water {
        WaterSource::Street | WaterSource::Tap => {}
        WaterSource::Tank { height: h } => height = h.field(u),
        WaterSource::Pump { curve: points, potable: p, least: l } => {
            least = l.map_or_else(String::new, |l| l.field(u));
            curve = points
                .iter()
                .map(|p| format!("{}:{}", p.flow.field(u), p.pressure.field(u)))
                .collect::<Vec<_>>()
                .join("; ");
            potable = *p;
        }
        WaterSource::Well { cut_in: a, cut_out: b, pump_flow: q, least: l } => {
            (cut_in, cut_out, pump_flow) = (a.field(u), b.field(u), q.field(u));
            least = l.map_or_else(String::new, |l| l.field(u));
        }
    }
    Ok(Source {
        u,
        job: known.open.id,
        supply: &supply.id,
        name: &supply.name,
        kinds: choices::terms("source", kind(&supply.water)),
        kind: kind(&supply.water),
        gauge_height: supply.gauge_height.field(u),
        curve,
        potable,
        height,
        cut_in,
        cut_out,
        pump_flow,
        least,
        can_remove: known.job().supplies.len() > 1,
        stock: supply.injection.map_or_else(String::new, |i| i.stock.field(u)),
        over: supply.injection.map_or_else(String::new, |i| i.over.field(u)),
        volume: supply.store.map_or_else(String::new, |s| s.volume.field(u)),
        roof: supply.store.and_then(|s| s.roof).map_or_else(String::new, |r| r.field(u)),
        battery_watts: (supply.store.and_then(|s| s.battery_watts))
            .map_or_else(String::new, |w| format!("{w}")),
        figures: extras(known, supply),
    }
    .render()?)
}

pub fn readings(known: &Assessed, supply: &Supply) -> Result<String, AppError> {
    let u = known.job().units;
    let rows = supply
        .readings
        .iter()
        .enumerate()
        .map(|(index, r)| {
            let (mut kind, mut title, mut pressure, mut flow, mut volume, mut time) =
                ("static", "Static pressure", String::new(), String::new(), String::new(), String::new());
            match r.kind {
                ReadingKind::Static { pressure: p } => pressure = p.field(u),
                ReadingKind::Dynamic { flow: q, pressure: p } => {
                    (kind, title, flow, pressure) = ("dynamic", "Working", q.field(u), p.field(u))
                }
                ReadingKind::Bucket { volume: v, time: t } => {
                    (kind, title, volume, time) = ("bucket", "Bucket", v.field(u), t.field(u))
                }
            }
            ReadingRow {
                index,
                form: format!("reading-{index}"),
                kind,
                title,
                pressure,
                flow,
                volume,
                time,
                when: r.when.clone(),
                instrument: r.instrument.clone(),
                place: r.tap.clone(),
            }
        })
        .collect();
    Ok(Readings {
        u,
        job: known.open.id,
        supply: &supply.id,
        mains: supply.water.is_mains(),
        kind: kind(&supply.water),
        rows,
    }
    .render()?)
}

pub fn chain(known: &Assessed, supply: &Supply, water: &SupplyAssessment) -> Result<String, AppError> {
    let (plan, c) = (known.job(), Catalogue::builtin());
    let u = plan.units;
    // What each part costs at the design flow, measured parts too.
    let whole = Supply { read_after: None, ..supply.clone() };
    let losses = SharedChain::of(plan, &whole);
    let behind = supply.read_after.as_ref().and_then(|id| supply.chain.iter().position(|i| i.id == *id));
    let rows: Vec<PartRow> = supply
        .chain
        .iter()
        .enumerate()
        .map(|(i, item)| {
            let mut row = PartRow {
                id: item.id.clone(),
                form: format!("part-{}", item.id),
                kind: "",
                title: "",
                options: Vec::new(),
                length: String::new(),
                rise: String::new(),
                set: String::new(),
                loss: match (water.design.flow, losses.0.get(i)) {
                    _ if behind.is_some_and(|r| i <= r) => "included in the readings".into(),
                    (Some(q), Some(step)) => format!("−{} at {}", step.link.loss_at(q).show(u), q.show(u)),
                    _ => String::new(),
                },
                note: String::new(),
            };
            match &item.part {
                ChainPart::Pipe { pipe, length, rise } => {
                    (row.kind, row.title, row.options, row.length, row.rise) =
                        ("pipe", "Pipe", choices::pipes(Some(pipe), None), length.field(u), rise.field(u));
                }
                ChainPart::Meter { size } => {
                    (row.kind, row.title, row.options) = ("meter", "Meter", choices::meters(size, None))
                }
                ChainPart::Device { model } => {
                    let device = c.device(model);
                    row.title = match device.map(|d| d.role) {
                        Some(Role::Backflow) => "Backflow preventer",
                        Some(Role::Filter) => "Filter",
                        _ => "Shutoff",
                    };
                    (row.kind, row.options) = (
                        "device",
                        choices::devices(&[Role::Backflow, Role::Isolation, Role::Filter], model, None),
                    );
                    row.note = device.map_or_else(String::new, |d| d.note.clone());
                }
                ChainPart::Regulator { set } => {
                    (row.kind, row.title, row.set) = ("regulator", "Regulator", set.field(u))
                }
            }
            row
        })
        .collect();
    let mut gauge = vec![Choice {
        value: String::new(),
        label: "before the first component (at the meter)".into(),
        chosen: behind.is_none() && !supply.asks_for_gauge(),
    }];
    if supply.asks_for_gauge() {
        gauge.insert(0, Choice { value: read::NOT_SAID.into(), label: "choose where".into(), chosen: true });
    }
    gauge.extend(rows.iter().zip(&supply.chain).enumerate().map(|(i, (r, item))| {
        let picked = r.options.iter().find(|o| o.chosen).map_or("", |o| o.label.as_str());
        Choice {
            value: item.id.clone(),
            label: format!("after {}. {} {picked}", i + 1, r.title.to_lowercase()),
            chosen: behind == Some(i),
        }
    }));
    let mut adds: Vec<Choice> =
        [("pipe", "Service line or shared mainline"), ("meter", "Meter"), ("regulator", "System regulator")]
            .map(|(v, l)| Choice { value: v.into(), label: l.into(), chosen: false })
            .into();
    adds.extend(choices::devices(&[Role::Backflow, Role::Isolation, Role::Filter], "-", None));
    Ok(Chain {
        u,
        job: known.open.id,
        supply: &supply.id,
        street: supply.water.is_mains(),
        asks: supply.asks_for_gauge(),
        rows,
        gauge,
        adds,
    }
    .render()?)
}

pub fn design(known: &Assessed, supply: &Supply, water: &SupplyAssessment) -> Result<String, AppError> {
    let u = known.job().units;
    let d = &water.design;
    let schools = d
        .methods
        .iter()
        .map(|m| SchoolRow {
            name: fenlo_words::capital(fenlo_words::method(m.method, &supply.water)),
            value: choices::word(&m.method),
            flow: m.flow.map_or("–".into(), |f| f.show(u)),
            says: fenlo_words::method_says(&m.says, u),
            workings: m.rules.iter().map(|r| fenlo_words::rule(r, u)).collect(),
            chosen: d.by == Some(m.method),
            pinned: d.pinned && d.by == Some(m.method),
            can_pin: m.flow.is_some(),
        })
        .collect();
    let margin = format!("{:.0}%", d.margin * 100.0);
    let says = match (d.by, d.assumed) {
        (Some(by), _) => {
            format!("available per zone; {}, less {margin} margin", fenlo_words::method(by, &supply.water))
        }
        (None, Some(_)) if water.point.as_ref().is_ok_and(|p| p.curve.falls()) => {
            "company default until heads are added; their pressure need sets the flow".into()
        }
        (None, Some(_)) => {
            "company default. Read the pressure with water running, or add meter and service line, to \
                calculate it"
                .into()
        }
        (None, None) => "not known yet. Enter static pressure, then meter and service line or a \
            working-pressure reading"
            .into(),
    };
    let zone = |z: &ZoneFlow| {
        let valve = known.job().valve(z.valve.as_deref()?)?;
        Some(ZoneRow {
            name: format!("{}  {}", known.job().valve_number(&valve.id), valve.name),
            flow: z.flow.map_or("none".into(), |f| f.show(u)),
            says: match z.missing {
                Some(missing) => format!("{} short for one head", missing.show(u)),
                None => format!("{} at its weakest head{}", z.wanted.show(u), fenlo_words::aim_note(z.aim)),
            },
        })
    };
    Ok(Design {
        job: known.open.id,
        supply: &supply.id,
        number: d.flow.or(d.assumed).map_or("–".into(), |f| f.number(u)),
        unit: Flow::unit(u),
        says,
        zones: d.by_zone.iter().filter_map(zone).collect(),
        working: fenlo_words::design_working(d, u),
        schools,
    }
    .render()?)
}

pub fn curve(known: &Assessed, water: &SupplyAssessment) -> Result<String, AppError> {
    let plan = known.job();
    let u = plan.units;
    let part = match &water.point {
        Err(fault) => {
            let mut text = fenlo_words::curve_fault(fault, u);
            text[..1].make_ascii_uppercase();
            CurvePart {
                fault: Some(text + "."),
                svg: String::new(),
                points: Vec::new(),
                at_source: "",
                thumb: String::new(),
                working: None,
            }
        }
        Ok(point) => {
            let c = &point.curve;
            let end = |q: Flow| point.at_connection(q);
            let far = water.design.flow.unwrap_or(Flow::from_gpm(12.0)) * 2.2;
            let line: Vec<(Flow, Pressure)> = (0..=40)
                .map(|i| far * (f64::from(i) / 40.0))
                .map(|q| (q, end(q)))
                .take_while(|(_, p)| p.kpa() > 0.0)
                .collect();
            let design = water.design.flow.unwrap_or(Flow::from_gpm(10.0));
            let points = round_flows(design, u)
                .into_iter()
                .map(|q| (q.show(u), c.pressure_at(q).show(u), end(q).show(u)))
                .collect();
            let rule = plan.rules.rule_of_thumb;
            let mains = plan.supply(&water.id).is_none_or(|s| s.water.is_mains());
            CurvePart {
                fault: None,
                svg: supply_curve(CurveDrawing {
                    curve: c,
                    connection: &line,
                    design: water.design.flow,
                    units: u,
                }),
                points,
                at_source: if mains { "At the gauge" } else { "At the source" },
                // The rule is one of city water: pumps and tanks have no street.
                thumb: match mains {
                    true => format!(
                        "Rule of thumb (static less {}): {}. Calculated at design flow: {}.",
                        rule.show(u),
                        (c.static_pressure - rule).show(u),
                        end(design).show(u)
                    ),
                    false => format!("Calculated at design flow: {}.", end(design).show(u)),
                },
                working: Some(fenlo_words::curve_working(c, u)),
            }
        }
    };
    Ok(part.render()?)
}

/// No flow, round ones up to the design flow, as a meter shows them, and the design flow.
fn round_flows(design: Flow, u: UnitSystem) -> Vec<Flow> {
    let unit = if u.is_metric() { Flow::from_lpm(1.0) } else { Flow::from_gpm(1.0) };
    let most = design.lpm() / unit.lpm();
    let rough = (most / 4.0).max(0.1);
    let ten = 10f64.powf(rough.log10().floor());
    let step = [1.0, 2.0, 2.5, 5.0, 10.0].map(|n| n * ten).into_iter().find(|s| *s >= rough).unwrap_or(ten);
    // What all but meets the design flow would stand there twice.
    let round = (0..4).map(|i| step * f64::from(i)).filter(|n| *n < most - step / 4.0);
    round.map(|n| unit * n).chain([design]).collect()
}

pub fn checks(known: &Assessed, supply: &Supply, _water: &SupplyAssessment) -> Result<String, AppError> {
    let here = Here::picked(Screen::Water, supply.id.clone()).word();
    let found = known.diagnoses(&Subject::Supply(supply.id.clone()));
    let well = "No problems found with this supply.";
    Ok(findings::render(known.open.id, known.job(), here, well, &found)?)
}
