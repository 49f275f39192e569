//! What an alternative costs to put in, and over ten years with its water: for choosing, not for buying.

use super::book::{PriceBook, part_key, quantity_of};
use super::cents;
use crate::assess::assess;
use crate::job::Job;
use crate::layout::{Alternative, YEARS, lay_out};
use crate::plan::Piping;
use crate::runtime::cost;
use crate::takeoff::{How, Line, LineKind, Reason, Unit, takeoff};
use crate::units::{Flow, Length, Volume};
use rust_decimal::Decimal;
use rust_decimal::prelude::FromPrimitive;

/// Months that a season's water is spread over, alike, to find its steps of the tariff.
const SEASON_MONTHS: u32 = 6;

/// What an alternative costs.
#[derive(Debug, Clone, PartialEq)]
pub struct FirstCost {
    /// Parts at the least price each is offered for, without carriage.
    pub materials: Decimal,
    /// Hours of labour at the house's rate.
    pub labour: Decimal,
    /// Parts without a price, by name: not in the sum.
    pub unpriced: Vec<String>,
    /// Water of a year by the tariff; none: no tariff, or no figure for the water.
    pub water: Option<Decimal>,
}

impl std::iter::Sum for FirstCost {
    /// Several areas together; their water is known where it is of each.
    fn sum<I: Iterator<Item = Self>>(all: I) -> Self {
        let none = Self {
            materials: Decimal::ZERO,
            labour: Decimal::ZERO,
            unpriced: Vec::new(),
            water: Some(Decimal::ZERO),
        };
        all.fold(none, |mut sum, one| {
            for name in one.unpriced {
                if !sum.unpriced.contains(&name) {
                    sum.unpriced.push(name);
                }
            }
            Self {
                materials: sum.materials + one.materials,
                labour: sum.labour + one.labour,
                unpriced: sum.unpriced,
                water: sum.water.zip(one.water).map(|(a, b)| a + b),
            }
        })
    }
}

impl FirstCost {
    /// Materials and labour.
    pub fn first(&self) -> Decimal {
        self.materials + self.labour
    }
    /// The same with the water of ten years.
    pub fn over_years(&self) -> Option<Decimal> {
        Some(self.first() + self.water? * Decimal::from(YEARS))
    }
}

/// What an alternative buys that others would not: bodies, nozzles, swing joints, drip tube and emitters,
/// and its valves with what drip wants. Pipe, trench, boxes and connection are much the same for all and are
/// left out. None where it can't be laid.
pub fn wanted_by(job: &Job, way: &Alternative) -> Option<Vec<Line>> {
    let laid = match (&way.heads, &way.drip) {
        (Ok(proposal), _) => job.replay(&lay_out(job, proposal)).ok()?.0,
        (_, Some(Ok(drip))) => job.replay(&drip.edit).ok()?.0,
        _ => return None,
    };
    let mut plan = laid.plan().clone();
    plan.groups.retain(|g| g.area.as_deref() == Some(&way.area));
    for group in &mut plan.groups {
        for head in &mut group.drawn {
            head.valve = None;
        }
        for lot in &mut group.listed {
            lot.valve = None;
        }
    }
    plan.valves.clear();
    plan.piping = Piping::default();
    plan.parts = Default::default();
    let alone = Job::new(plan);
    let taken = takeoff(&alone, &assess(&alone));
    let mut lines: Vec<Line> = taken
        .lines
        .into_iter()
        .filter(|l| matches!(l.kind, LineKind::Head | LineKind::Nozzle | LineKind::Tubing | LineKind::Drip))
        .collect();
    let mut put = |kind, part: String, label: String, n: f64| {
        if n > 0.0 {
            lines.push(Line {
                kind,
                part,
                label,
                size: String::new(),
                quantity: n,
                unit: Unit::Each,
                piece: None,
                used: n,
                from: Vec::new(),
                how: vec![How::Each(Reason::Zone)],
            });
        }
    };
    let class = job.catalogue().class(way.kind);
    if let (Some(thread), true) = (&class.thread, job.rules.buying.swing_joints) {
        let heads = alone.groups.iter().map(|g| f64::from(g.count())).sum();
        put(LineKind::Fitting, format!("swing-joint-{thread}"), "Swing joint".into(), heads);
    }
    let valves = way.valves.unwrap_or(1).max(1);
    let each = way.flow.unwrap_or(Flow::ZERO) / valves as f64;
    let n = valves as f64;
    let drip = way.kind.is_drip();
    let valve = job.catalogue().valve_for(each, drip);
    put(LineKind::Valve, valve.id.clone(), valve.label.clone(), n);
    if drip {
        let filter = job.catalogue().filter_for(each);
        put(LineKind::Filter, filter.id.clone(), filter.label.clone(), n);
    }
    Some(lines)
}

/// What an alternative costs by a book, `lines` being what it buys ([`wanted_by`]). Labour counts heads,
/// emitters' tube and valves at the house's hours.
///
/// # Example
/// Ten heads with parts of 12.00 each and a quarter of an hour at 48: 120 and 120, 240 in all; with 30 of
/// water a year 540 over ten years.
pub fn first_cost(job: &Job, way: &Alternative, lines: &[Line], book: &PriceBook) -> FirstCost {
    let mut materials = Decimal::ZERO;
    let mut unpriced = Vec::new();
    for line in lines {
        let key = part_key(&line.part, line.piece);
        // A nozzle of the house may carry its price in its chart.
        let chart = || {
            let own = job.nozzles.iter().filter(|_| line.kind == LineKind::Nozzle);
            let own = own.filter(|n| line.part == n.id || line.part.starts_with(&format!("{}-", n.id)));
            own.filter_map(|n| n.price).next()
        };
        match book.prices_of(&key).map(|p| p.price).min().or_else(chart) {
            Some(price) => materials += price * quantity_of(line),
            None => unpriced.push(line.text()),
        }
    }
    let rates = &job.rules.buying.hours;
    let of = |kind| lines.iter().filter(move |l| l.kind == kind);
    let heads: f64 = of(LineKind::Head).map(|l| l.used).sum();
    let tube: f64 = of(LineKind::Tubing).map(|l| Length::from_m(l.used).ft()).sum();
    let valves: f64 = of(LineKind::Valve).map(|l| l.used).sum();
    let hours = heads * rates.head + tube * rates.tube_ft + valves * rates.valve;
    let labour = Decimal::from_f64(hours).unwrap_or_default().round_dp(2) * job.rules.buying.hour;
    FirstCost {
        materials: cents(materials),
        labour: cents(labour),
        unpriced,
        water: way.year.and_then(|year| water_of_a_year(job, year)),
    }
}

/// A year's water by the job's tariff, spread over a season of six months alike.
fn water_of_a_year(job: &Job, year: Volume) -> Option<Decimal> {
    let month = Volume::from_litres(year.litres() / f64::from(SEASON_MONTHS));
    let sum = cost(&job.watering.usage.tariff, month)?;
    Some(cents(sum * Decimal::from(SEASON_MONTHS)))
}
