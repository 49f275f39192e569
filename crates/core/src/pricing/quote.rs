//! What the customer pays: materials at the prices of the day, labour by unit, overhead, margin, tax.

use super::basket::baskets;
use super::book::{PriceBook, part_key, quantity_of, text_of};
use super::cents;
use crate::job::Job;
use crate::plan::{Date, LegOf};
use crate::takeoff::{How, Line, LineKind, Reason, Takeoff};
use rust_decimal::Decimal;
use rust_decimal::prelude::FromPrimitive;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// Kinds of work: sections of a quote by work.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Work {
    /// The connection with its backflow protection.
    Connection,
    /// Trenches, pipe and fittings.
    Pipe,
    /// Heads and nozzles.
    Heads,
    /// Valves, boxes, wire, controller.
    Valves,
    /// Drip.
    Drip,
    /// All else.
    Other,
}

/// How a quote is parted.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum SectionBy {
    /// By kind of work.
    #[default]
    Work,
    /// By zone, with what all zones share.
    Zone,
}

/// A section.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Section {
    /// What all zones share.
    Shared,
    /// A zone, by its place in the list, its valve's id and name.
    Zone(usize, String, String),
    /// A kind of work.
    Work(Work),
}

/// A line of materials.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct QuoteLine {
    /// The part, as price books name it.
    pub part: String,
    /// For people.
    pub text: String,
    /// What is bought: whole packs.
    pub quantity: Decimal,
    /// Of what.
    pub unit: String,
    /// For one; none: nobody sells it.
    pub price: Option<Decimal>,
    /// In all.
    pub sum: Option<Decimal>,
    /// Of whom.
    pub supplier: Option<String>,
}

/// A line of labour.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Labour {
    /// The unit of work: `head`, `valve`, `trench`, `crossing`, `tube`, `emitter`, `controller`,
    /// `connection`.
    pub unit: String,
    /// How many; of trench and tube in feet.
    pub count: f64,
    /// Hours in all, to the hundredth.
    pub hours: Decimal,
    /// What they are sold at.
    pub sum: Decimal,
}

/// A section with what it comes to.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct QuoteSection {
    /// Which.
    pub section: Section,
    /// Materials.
    pub materials: Decimal,
    /// Labour.
    pub labour: Decimal,
    /// With overhead and margin, rounded up as the house does.
    pub price: Decimal,
}

/// A quote: everything that it was made of, so that it stays what it was.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Quote {
    /// Three letters.
    pub currency: String,
    /// Made on.
    pub on: Date,
    /// Holds until.
    pub until: Date,
    /// How it is parted.
    pub by: SectionBy,
    /// Materials.
    pub lines: Vec<QuoteLine>,
    /// Labour.
    pub labour: Vec<Labour>,
    /// Sections: their prices add up to the subtotal.
    pub sections: Vec<QuoteSection>,
    /// Carriage of all suppliers; it is in the sections' materials.
    pub carriage: Decimal,
    /// Share on costs for what the house costs.
    pub overhead: Decimal,
    /// Share of the price that is left over.
    pub margin: Decimal,
    /// What it costs the house: materials, carriage, labour.
    pub cost: Decimal,
    /// Before tax.
    pub subtotal: Decimal,
    /// Tax, a share.
    pub tax_rate: Decimal,
    /// Tax, to the cent.
    pub tax: Decimal,
    /// What the customer pays.
    pub total: Decimal,
    /// Parts that nobody sells: not in the sums.
    pub unpriced: Vec<String>,
}

/// The quote of a job at the prices of a book. Materials are taken from the cheapest basket; its carriage is
/// shared over the sections by their materials. A section's price is (materials + labour) · (1 + overhead) /
/// (1 − margin), rounded up to the house's step; the subtotal is the sum of them, tax is on that to the cent.
///
/// # Example
/// Materials 100, labour 50, overhead 12 %, margin 15 %: 150 · 1.12 / 0.85 = 197.65, rounded up to 198.
pub fn quote(job: &Job, takeoff: &Takeoff, book: &PriceBook, on: Date, by: SectionBy) -> Quote {
    let rules = &job.rules.buying;
    let share = |x: f64| Decimal::from_f64(x).unwrap_or_default().round_dp(6);
    let lines: Vec<Line> = takeoff.lines.iter().filter(|l| l.quantity > 0.0).cloned().collect();
    let basket = baskets(book, &lines);
    let mut quoted: Vec<QuoteLine> = lines
        .iter()
        .map(|line| QuoteLine {
            part: part_key(&line.part, line.piece),
            text: text_of(line),
            quantity: quantity_of(line),
            unit: line.unit.word().to_owned(),
            price: None,
            sum: None,
            supplier: None,
        })
        .collect();
    let mut carriage = Decimal::ZERO;
    for bag in &basket.best.bags {
        carriage += bag.carriage;
        for (place, bought, sum) in &bag.lines {
            let line = &mut quoted[*place];
            line.quantity = *bought;
            line.sum = Some(*sum);
            line.price = Some((*sum / *bought).round_dp(4).normalize());
            line.supplier = Some(bag.supplier.clone());
        }
    }
    let hours = works(job, takeoff);
    let mut sections: BTreeMap<Section, (Decimal, Decimal)> = BTreeMap::new();
    let mut put = |shares: &[(Section, f64)], sum: Decimal, labour: bool| {
        for (section, sum) in parted(sum, shares) {
            let at = sections.entry(section).or_default();
            if labour {
                at.1 += sum;
            } else {
                at.0 += sum;
            }
        }
    };
    for (line, priced) in lines.iter().zip(&quoted) {
        if let Some(sum) = priced.sum {
            put(&shares_of(job, line, by), sum, false);
        }
    }
    let mut labour: Vec<Labour> = Vec::new();
    for work in &hours {
        let time = Decimal::from_f64(work.hours).unwrap_or_default().round_dp(2);
        let sum = cents(time * rules.hour);
        if sum.is_zero() && time.is_zero() {
            continue;
        }
        let shares: Vec<(Section, f64)> = match by {
            SectionBy::Work => vec![(Section::Work(work.work), 1.0)],
            SectionBy::Zone => work.zones.clone(),
        };
        put(&shares, sum, true);
        labour.push(Labour { unit: work.unit.to_owned(), count: work.count, hours: time, sum });
    }
    // Carriage goes with the goods.
    let goods: Vec<(Section, f64)> =
        sections.iter().map(|(s, sums)| (s.clone(), f64::try_from(sums.0).unwrap_or(0.0))).collect();
    for (section, sum) in parted(carriage, &goods) {
        sections.entry(section).or_default().0 += sum;
    }
    let (overhead, margin, tax_rate) = (share(rules.overhead), share(rules.margin), share(rules.tax));
    let priced: Vec<QuoteSection> = sections
        .into_iter()
        .map(|(section, (materials, labour))| {
            let cost = materials + labour;
            let price = cost * (Decimal::ONE + overhead) / (Decimal::ONE - margin);
            QuoteSection { section, materials, labour, price: rounded_up(price, rules.round_to) }
        })
        .collect();
    let subtotal: Decimal = priced.iter().map(|s| s.price).sum();
    let tax = cents(subtotal * tax_rate);
    Quote {
        currency: rules.currency.clone(),
        on,
        until: on.days_later(rules.valid_days),
        by,
        cost: priced.iter().map(|s| s.materials + s.labour).sum(),
        unpriced: basket.unpriced.iter().map(|i| quoted[*i].part.clone()).collect(),
        lines: quoted,
        labour,
        sections: priced,
        carriage,
        overhead,
        margin,
        subtotal,
        tax_rate,
        tax,
        total: subtotal + tax,
    }
}

/// Up to the next multiple of a step; to the cent where the step is nothing.
fn rounded_up(sum: Decimal, step: Decimal) -> Decimal {
    if step.is_zero() {
        return cents(sum);
    }
    cents((cents(sum) / step).ceil() * step)
}

/// A sum shared out to the cent: the last with a share takes what rounding leaves.
fn parted(sum: Decimal, shares: &[(Section, f64)]) -> Vec<(Section, Decimal)> {
    let all: f64 = shares.iter().map(|s| s.1.max(0.0)).sum();
    if sum.is_zero() {
        return Vec::new();
    }
    if all <= 0.0 {
        let to = shares.first().map_or(Section::Shared, |s| s.0.clone());
        return vec![(to, sum)];
    }
    let with: Vec<&(Section, f64)> = shares.iter().filter(|s| s.1 > 0.0).collect();
    let mut left = sum;
    let mut out = Vec::with_capacity(with.len());
    for (i, (section, share)) in with.iter().enumerate() {
        let part = if i + 1 == with.len() {
            left
        } else {
            cents(sum * Decimal::from_f64(share / all).unwrap_or_default())
        };
        left -= part;
        out.push((section.clone(), part));
    }
    out
}

/// The kind of work that a line belongs to.
fn work_of(line: &Line) -> Work {
    let connection = line.how.iter().all(|h| matches!(h, How::Each(Reason::Connection)));
    match line.kind {
        _ if connection && !line.how.is_empty() => Work::Connection,
        LineKind::Backflow => Work::Connection,
        LineKind::Fitting if line.part.starts_with("swing-joint") || line.part.starts_with("riser") => {
            Work::Heads
        }
        LineKind::Fitting if line.part.starts_with("drip-") || line.part.starts_with("tube-") => Work::Drip,
        LineKind::Pipe | LineKind::Fitting => Work::Pipe,
        LineKind::Head | LineKind::Nozzle => Work::Heads,
        LineKind::Tubing | LineKind::Drip => Work::Drip,
        LineKind::Valve
        | LineKind::Box
        | LineKind::Regulator
        | LineKind::Filter
        | LineKind::Wire
        | LineKind::Controller => Work::Valves,
        LineKind::Sundry => Work::Other,
    }
}

fn shares_of(job: &Job, line: &Line, by: SectionBy) -> Vec<(Section, f64)> {
    if by == SectionBy::Work {
        return vec![(Section::Work(work_of(line)), 1.0)];
    }
    let mut shares: BTreeMap<Section, f64> = BTreeMap::new();
    for id in &line.from {
        for (section, share) in zones_of(job, id) {
            *shares.entry(section).or_default() += share;
        }
    }
    if shares.is_empty() {
        return vec![(Section::Shared, 1.0)];
    }
    shares.into_iter().collect()
}

fn zone(job: &Job, valve: &str) -> Section {
    match job.valve(valve) {
        Some(v) => Section::Zone(job.valve_number(valve), v.id.clone(), v.name.clone()),
        None => Section::Shared,
    }
}

/// The zones that something on the plan belongs to, each with its share of 1.
fn zones_of(job: &Job, id: &str) -> Vec<(Section, f64)> {
    if let Some(leg) = job.piping.leg(id) {
        return vec![match &leg.of {
            LegOf::Lateral(valve) => (zone(job, valve), 1.0),
            LegOf::Main(_) => (Section::Shared, 1.0),
        }];
    }
    if let Some((_, head)) = job.drawn_head(id) {
        return vec![(head.valve.as_deref().map_or(Section::Shared, |v| zone(job, v)), 1.0)];
    }
    if job.valve(id).is_some() {
        return vec![(zone(job, id), 1.0)];
    }
    let listed = id.rsplit_once('.').and_then(|(g, n)| Some((job.group(g)?, n.parse::<u32>().ok()?)));
    if let Some((group, n)) = listed {
        let head = group.heads().find(|h| h.0 + 1 == n);
        let valve = head.and_then(|h| h.2.map(str::to_owned));
        return vec![(valve.map_or(Section::Shared, |v| zone(job, &v)), 1.0)];
    }
    if let Some(group) = job.group(id) {
        let mut shares: BTreeMap<Section, f64> = BTreeMap::new();
        for (_, _, valve) in group.heads() {
            let section = valve.map_or(Section::Shared, |v| zone(job, v));
            *shares.entry(section).or_default() += 1.0 / f64::from(group.count().max(1));
        }
        return shares.into_iter().collect();
    }
    let inside: Vec<&str> =
        job.valves.iter().filter(|v| v.valve_box.as_deref() == Some(id)).map(|v| v.id.as_str()).collect();
    if !inside.is_empty() {
        return inside.iter().map(|v| (zone(job, v), 1.0 / inside.len() as f64)).collect();
    }
    if let Some(joint) = job.piping.joint(id) {
        let of = job.piping.legs.iter().find(|l| l.from == joint.id || l.to == joint.id);
        return of.map_or_else(|| vec![(Section::Shared, 1.0)], |leg| zones_of(job, &leg.id));
    }
    vec![(Section::Shared, 1.0)]
}

/// Hours of one unit of work, with the zones they are for.
struct Hours {
    work: Work,
    unit: &'static str,
    count: f64,
    hours: f64,
    zones: Vec<(Section, f64)>,
}

fn works(job: &Job, takeoff: &Takeoff) -> Vec<Hours> {
    let rates = &job.rules.buying.hours;
    let mut heads: BTreeMap<Section, f64> = BTreeMap::new();
    for group in &job.groups {
        let drip = job.catalogue().nozzle(&group.nozzle).is_some_and(|n| n.kind.is_drip());
        for (_, _, valve) in group.heads().filter(|_| !drip) {
            *heads.entry(valve.map_or(Section::Shared, |v| zone(job, v))).or_default() += 1.0;
        }
    }
    let from_lines = |kind: LineKind, wanted: &dyn Fn(&Line) -> bool| -> (f64, Vec<(Section, f64)>) {
        let mut shares: BTreeMap<Section, f64> = BTreeMap::new();
        let mut count = 0.0;
        for line in takeoff.section(kind).filter(|l| wanted(l)) {
            count += line.used;
            for (section, share) in shares_of(job, line, SectionBy::Zone) {
                *shares.entry(section).or_default() += share * line.used / line.from.len().max(1) as f64;
            }
        }
        (count, shares.into_iter().collect())
    };
    let mut trench: BTreeMap<Section, f64> = BTreeMap::new();
    for row in &takeoff.digging.rows {
        for leg in &row.legs {
            for (section, share) in zones_of(job, leg) {
                *trench.entry(section).or_default() += row.hours * share / row.legs.len().max(1) as f64;
            }
        }
    }
    let crossings: Vec<(Section, f64)> =
        takeoff.digging.crossings.iter().flat_map(|c| zones_of(job, &c.0)).collect();
    let (tube, tube_zones) = from_lines(LineKind::Tubing, &|_| true);
    let tube_ft = crate::units::Length::from_m(tube).ft();
    let emitter = |l: &Line| l.how.iter().any(|h| matches!(h, How::Each(Reason::Emitters)));
    let (emitters, emitter_zones) = from_lines(LineKind::Drip, &emitter);
    let valves: Vec<(Section, f64)> = job.valves.iter().map(|v| (zone(job, &v.id), 1.0)).collect();
    let shared = vec![(Section::Shared, 1.0)];
    let controllers: f64 = takeoff.section(LineKind::Controller).map(|l| l.quantity).sum();
    let connections = job.supplies.iter().filter(|s| job.valves.iter().any(|v| v.supply == s.id)).count();
    let count: f64 = heads.values().sum();
    let row =
        |work, unit, count: f64, each: f64, zones| Hours { work, unit, count, hours: count * each, zones };
    let pushed = crossings.len() as f64;
    let dug: f64 = takeoff.digging.rows.iter().map(|r| r.hours).sum();
    vec![
        row(Work::Connection, "connection", connections as f64, rates.connection, shared.clone()),
        Hours {
            work: Work::Pipe,
            unit: "trench",
            count: takeoff.digging.length().ft(),
            hours: dug,
            zones: trench.into_iter().collect(),
        },
        row(Work::Pipe, "crossing", pushed, rates.crossing, crossings),
        row(Work::Heads, "head", count, rates.head, heads.into_iter().collect()),
        row(Work::Valves, "valve", job.valves.len() as f64, rates.valve, valves),
        row(Work::Valves, "controller", controllers, rates.controller, shared),
        row(Work::Drip, "tube", tube_ft, rates.tube_ft, tube_zones),
        row(Work::Drip, "emitter", emitters, rates.emitter, emitter_zones),
    ]
}
