use crate::assess::{AreaReport, area_reports, assess};
use crate::job::Job;
use crate::layout::{DRIP_DU, WATER_PRICE, YEARS, watered_with};
use crate::plan::{Date, HeadGroup, need_per_week};
use crate::pricing::{Price, PriceBook, SectionBy, part_key, quote};
use crate::runtime::cost;
use crate::site::Area;
use crate::takeoff::LineKind;
use crate::units::Volume;
use crate::verdict::{Total, Verdict};
use rust_decimal::prelude::ToPrimitive;

/// A fitting, and another part, that no price is known of.
const FITTING: f64 = 2.5;
const PART: f64 = 20.0;
/// Months that a season's water is spread over, alike, to find its steps of the tariff.
const SEASON_MONTHS: f64 = 6.0;

/// What a plan costs over ten years, and what it lacks.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct TenYears {
    /// Parts and labour, in the job's currency.
    pub first: f64,
    /// Water of a year.
    pub water: Volume,
    /// What that costs a year.
    pub water_cost: f64,
    /// Findings of the whole job.
    pub found: Total,
    /// Heads, drip not among them.
    pub heads: usize,
    /// Valves.
    pub valves: usize,
}

impl TenYears {
    /// Parts, labour and ten years of water.
    pub fn sum(&self) -> f64 {
        self.first + f64::from(YEARS) * self.water_cost
    }

    /// By this one plan comes before another, the least first: its price, several times as much with anything to be
    /// stopped or mended in it.
    pub fn weighed(&self) -> f64 {
        let lacks = 3.0 * self.found.stop as f64 + self.found.fix as f64 + 0.03 * self.found.watch as f64;
        self.sum() * (1.0 + 2.0 * lacks)
    }
}

/// A book with planning prices for whatever it does not know.
pub fn with_planning_prices(book: &PriceBook) -> PriceBook {
    let planning = PriceBook::planning().prices.iter().filter(|p| book.prices_of(&p.number).next().is_none());
    let under = |p: &Price| Price { number: book.number_of(&p.number).to_owned(), ..p.clone() };
    PriceBook { prices: book.prices.iter().cloned().chain(planning.map(under)).collect(), ..book.clone() }
}

/// What a plan costs over ten years by a price book ([`with_planning_prices`]); `year` is that of its calendar.
///
/// # Source
/// Parts and hours as the quote counts them; water by the season's need over what lands, and how evenly.
pub fn ten_years(job: &Job, book: &PriceBook, year: i32) -> TenYears {
    let known = assess(job);
    let reports = area_reports(job, &known.solved_heads());
    let verdict = Verdict::with_areas(job, &known, year, &reports);
    let lines = &verdict.taken().lines;
    let on = Date::of(year, 6, 1).unwrap_or(Date::after_1970(0));
    let quoted = quote(job, verdict.taken(), book, on, SectionBy::Work);
    let missing = lines.iter().filter(|l| quoted.unpriced.contains(&part_key(&l.part, l.piece)));
    let missing: f64 =
        missing.map(|l| l.quantity * if l.kind == LineKind::Fitting { FITTING } else { PART }).sum();
    let water: Volume = job.site.areas().map(|(thing, area)| water_of(job, &thing.id, area, &reports)).sum();
    let month = Volume::from_litres(water.litres() / SEASON_MONTHS);
    let tariff = cost(&job.watering.usage.tariff, month).and_then(|d| d.to_f64());
    let throws = |g: &&HeadGroup| job.catalogue().nozzle(&g.nozzle).is_some_and(|n| !n.kind.is_drip());
    TenYears {
        first: quoted.cost.to_f64().unwrap_or(0.0) + missing,
        water,
        water_cost: tariff.map_or(water.litres() / 1000.0 * WATER_PRICE, |t| t * SEASON_MONTHS),
        found: verdict.total(),
        heads: job.groups.iter().filter(throws).map(|g| g.count() as usize).sum(),
        valves: job.valves.len(),
    }
}

/// A year's water of an area by what is laid on it; nothing where nothing is.
fn water_of(job: &Job, id: &str, area: &Area, reports: &[AreaReport]) -> Volume {
    let report = reports.iter().find(|r| r.area == id);
    let laid = job.groups.iter().any(|g| g.area.as_deref() == Some(id) && g.count() > 0);
    let (du, off) = match report {
        Some(r) if !r.kind.is_drip() => (r.expected.map_or(0.5, |e| e.du), r.coverage.overspray()),
        _ => (DRIP_DU, 0.0),
    };
    let need = need_per_week(job, area);
    let m2 = if laid { area.shape.area_m2() } else { 0.0 };
    Volume::from_litres(1000.0 * need.depth.m() * need.weeks * m2 * watered_with(du, off))
}
