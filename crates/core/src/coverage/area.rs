use super::uniformity::with_window;
use super::{Drift, Grid, Pattern, Profile, Throw, Under, Uniformity, cell_for, ground};
use crate::catalogue::{HeadClass, Nozzle};
use crate::job::Job;
use crate::plan::{DrawnHead, HeadRef, Plan};
use crate::site::Point;
use crate::units::{Flow, Length, Pressure, Rate};
use std::collections::HashMap;

/// The water on one area.
#[derive(Debug, Clone, PartialEq)]
pub struct Coverage {
    /// Id of the area.
    pub area: String,
    /// Cells over it and over all that its heads throw on.
    pub grid: Grid,
    /// What lies under them.
    pub under: Vec<Under>,
    /// Rate on every cell, mm/h.
    pub rate: Vec<f32>,
    /// DU, CU, SC over the area; none where it gets nothing. Mean and low in mm/h.
    pub uniformity: Option<Uniformity>,
    /// The driest window of 5 %.
    pub driest: Option<Window>,
    /// Middle of the wettest cell, and its rate.
    pub wettest: Option<(Point, Rate)>,
    /// What its heads give.
    pub flow: Flow,
    /// What of that lands on the area.
    pub landed: Flow,
    /// Where the rest lands, the most first.
    pub spills: Vec<Spill>,
    /// Share of the area that gets less than a tenth of the mean.
    pub unreached: f64,
    /// Heads that water it.
    pub heads: usize,
}

/// A square window on the ground.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Window {
    /// Lower left corner.
    pub low: Point,
    /// Upper right corner.
    pub high: Point,
    /// Mean rate in it.
    pub rate: Rate,
}

/// Water that lands off the area.
#[derive(Debug, Clone, PartialEq)]
pub struct Spill {
    /// The thing it lands on; none: open ground.
    pub thing: Option<String>,
    /// For people.
    pub name: String,
    /// It is to be kept dry.
    pub dry: bool,
    /// How much.
    pub flow: Flow,
}

impl Coverage {
    /// Share of the water that lands on what is kept dry, 0 to 1.
    pub fn on_dry(&self) -> f64 {
        self.share(self.spills.iter().filter(|s| s.dry).map(|s| s.flow).sum())
    }
    /// Share of the water that lands anywhere off the area, 0 to 1.
    pub fn overspray(&self) -> f64 {
        self.share(self.flow - self.landed)
    }
    fn share(&self, flow: Flow) -> f64 {
        // An empty sum is a negative zero: not to be shown.
        if self.flow.lpm() > 0.0 { (flow / self.flow).clamp(0.0, 1.0) + 0.0 } else { 0.0 }
    }
    /// Which cells are the area's.
    pub fn inside(&self) -> Vec<bool> {
        self.under.iter().map(|u| *u == Under::Area).collect()
    }
    /// m2 of the area's cells.
    pub fn area_m2(&self) -> f64 {
        self.under.iter().filter(|u| **u == Under::Area).count() as f64 * self.grid.cell_m2()
    }
}

/// A drawn head with the pressure it gets.
pub struct Source<'a> {
    /// The head.
    pub head: &'a DrawnHead,
    /// Its nozzle.
    pub nozzle: &'a Nozzle,
    /// Its class.
    pub class: &'a HeadClass,
    /// Pressure at its nozzle, and flow; none on no valve, or where the valve has no figures.
    pub solved: Option<(Pressure, Flow)>,
}

impl Source<'_> {
    /// It as it throws.
    pub fn throw(&self) -> Throw {
        let (pressure, flow) = self
            .solved
            .unwrap_or((self.class.nominal, self.nozzle.flow_set(self.head.arc, self.head.radius)));
        Throw::of(self.nozzle, self.class, self.head, pressure, flow)
    }
}

impl Throw {
    /// A head as it throws at a pressure.
    pub fn of(nozzle: &Nozzle, kind: &HeadClass, head: &DrawnHead, pressure: Pressure, flow: Flow) -> Self {
        let reach = nozzle.throw(kind, pressure, head.radius).unwrap_or(Length::ZERO).m().max(0.01);
        // A pattern shrinks with its throw.
        let k = nozzle.radius.map_or(1.0, |r| reach / r.m());
        let strip = nozzle.pattern.map(|strip| Pattern::of(&strip, k));
        let starved = ((kind.low - pressure) / kind.low).clamp(0.0, 0.5) * 2.0;
        Self {
            at: head.at,
            facing: head.facing,
            reach,
            pattern: strip.unwrap_or(Pattern::Sector(f64::from(head.arc))),
            // A square stands alone: neighbours do not reach into it.
            profile: if nozzle.pattern.is_some_and(|s| s.width == s.length) {
                Profile::Square
            } else {
                Profile::of(kind.kind)
            },
            hollow: starved,
            fog: 0.0,
            streaks: [0.0; 4],
            flow,
        }
    }
}

/// Pressure at its nozzle and flow of each head whose valve has figures.
pub type SolvedHeads = HashMap<HeadRef, (Pressure, Flow)>;

/// The drawn heads of an area.
pub fn sources<'a>(job: &'a Job, solved: &SolvedHeads, area: &str) -> Vec<Source<'a>> {
    let mut out = Vec::new();
    for group in job.groups.iter().filter(|g| g.area.as_deref() == Some(area)) {
        let catalogue = job.catalogue();
        let Some(nozzle) = catalogue.nozzle(&group.nozzle).filter(|n| n.radius.is_some()) else {
            continue;
        };
        let listed: u32 = group.listed.iter().map(|l| l.count).sum();
        for (head, index) in group.drawn.iter().zip(listed..) {
            let key = HeadRef { group: group.id.clone(), index };
            let solved = solved.get(&key).copied();
            out.push(Source { head, nozzle, class: catalogue.class(nozzle.kind), solved });
        }
    }
    out
}

/// The water that throws bring to an area, over cells of its own size (1 ft, finer on small or narrow
/// ground, at most 120,000).
///
/// Every head's flow is spread over its throw by its profile, its volume conserved, and summed: rates in
/// mm/h, flows in L/min, shares from 0 to 1. None where there is no such area.
///
/// # Source
/// Catch-can audits on a computed grid: DU of the lower quarter (Merriam and Keller 1978), CU (Christiansen
/// 1942), SC as mean over the driest contiguous 5 %.
///
/// # Example
/// What lands on the area and what is spilt beside it together are the flow (a property holds it).
pub fn coverage(plan: &Plan, area: &str, throws: &[Throw], drift: Option<Drift>) -> Option<Coverage> {
    let shape = &plan.site.area(area)?.shape;
    let cell = cell_for(shape);
    // Room round the area for all that is thrown off it.
    let (low, high) = plan.site.object(area)?.bounds()?;
    let far = |t: &Throw| t.furthest() * 1.4;
    let beyond = throws
        .iter()
        .map(|t| {
            (low.x - t.at.x + far(t))
                .max(low.y - t.at.y + far(t))
                .max(t.at.x + far(t) - high.x)
                .max(t.at.y + far(t) - high.y)
        })
        .fold(cell, f64::max);
    // A head that was dragged to the far end of the sheet is not worth a million cells.
    let ground = ground(
        &plan.site,
        area,
        cell,
        (beyond + cell).min(60.0 + 2.0 * throws.iter().map(far).fold(0.0, f64::max)),
    )?;
    let (grid, under) = (ground.grid, ground.under);
    let mut lpm = vec![0.0f32; grid.len()];
    let mut shares = Vec::new();
    let mut flow = 0.0;
    for throw in throws {
        throw.shares(&grid, drift, &mut shares);
        let q = throw.flow.lpm() as f32;
        flow += throw.flow.lpm();
        for (cell, share) in &shares {
            lpm[*cell as usize] += q * share;
        }
    }
    let mut spilt = vec![0.0f64; plan.site.objects.len() + 1];
    let mut landed = 0.0;
    for (under, q) in under.iter().zip(&lpm) {
        match under {
            Under::Area => landed += f64::from(*q),
            Under::Open => spilt[plan.site.objects.len()] += f64::from(*q),
            Under::Dry(i) | Under::Other(i) => spilt[*i as usize] += f64::from(*q),
        }
    }
    let things =
        plan.site.objects.iter().map(|t| (Some(t), t.title())).chain([(None, "bare ground outside areas")]);
    let mut spills: Vec<Spill> = things
        .zip(&spilt)
        .filter(|(_, q)| **q > flow * 1e-4)
        .map(|((thing, name), q)| Spill {
            thing: thing.map(|t| t.id.clone()),
            name: name.to_owned(),
            dry: thing.is_some_and(|t| matches!(t.what, crate::site::ObjectKind::Dry(_))),
            flow: Flow::from_lpm(*q),
        })
        .collect();
    spills.sort_by(|a, b| b.flow.lpm().total_cmp(&a.flow.lpm()));
    // 1 L/min on 1 m2 is 60 mm an hour.
    let k = (60.0 / grid.cell_m2()) as f32;
    let rate: Vec<f32> = lpm.iter().map(|q| q * k).collect();
    let inside: Vec<bool> = under.iter().map(|u| *u == Under::Area).collect();
    let cells = inside.iter().filter(|i| **i).count().max(1);
    let known = with_window(&grid, &inside, &rate);
    let least = known.map_or(f64::MAX, |(u, _)| u.mean * 0.1);
    let unreached =
        inside.iter().zip(&rate).filter(|(i, r)| **i && f64::from(**r) < least).count() as f64 / cells as f64;
    let wettest =
        (0..rate.len()).filter(|i| inside[*i] && rate[*i] > 0.0).max_by(|a, b| rate[*a].total_cmp(&rate[*b]));
    Some(Coverage {
        area: area.to_owned(),
        uniformity: known.map(|k| k.0),
        driest: known.map(|(_, d)| {
            let low = grid.origin + Point::new(d.col as f64, d.row as f64) * grid.cell;
            Window {
                low,
                high: low + Point::new(d.side as f64, d.side as f64) * grid.cell,
                rate: Rate::from_mmph(d.mean),
            }
        }),
        wettest: wettest.map(|i| (grid.centre(i), Rate::from_mmph(f64::from(rate[i])))),
        flow: Flow::from_lpm(flow),
        landed: Flow::from_lpm(landed),
        spills,
        unreached,
        heads: throws.len(),
        grid,
        under,
        rate,
    })
}
