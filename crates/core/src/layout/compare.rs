//! All kinds of head side by side for an area: the same figures for each.

use super::price::{DRIP_DU, Prices};
use super::{LayoutFault, Proposal, propose};
use crate::catalogue::Kind;
use crate::drip::{DripFault, DripWish, Laid, design};
use crate::job::Job;
use crate::plan::{DripLaying, Edit, Plan, WeekNeed, need_per_week};
use crate::progress::Progress;
use crate::site::Area;
use crate::units::{Flow, Length, Minutes, Pressure, Rate, Volume};
use rust_decimal::Decimal;

/// What the best point of connection gives.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Available {
    /// Its design flow.
    pub flow: Option<Flow>,
    /// Pressure at the connection at that flow, before valve and laterals.
    pub left: Option<Pressure>,
}

/// Running time of a week, and what makes it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct WeekMinutes {
    /// What the area wants.
    pub need: WeekNeed,
    /// How fast the water comes.
    pub rate: Rate,
    /// How evenly it lies, as an audit would find it.
    pub du: f64,
    /// More time for the driest quarter: 1 / (0.4 + 0.6 DU), at most 1.67.
    pub multiplier: f64,
    /// The running time.
    pub minutes: Minutes,
}

/// One way to water an area.
#[derive(Debug, Clone)]
pub struct Alternative {
    /// Id of the area.
    pub area: String,
    /// Kind of head.
    pub kind: Kind,
    /// Its heads, or why there are none.
    pub heads: Result<Proposal, LayoutFault>,
    /// Flow; none where there is no proposal.
    pub flow: Option<Flow>,
    /// Valves at least, at the design flow; none where that is not known.
    pub valves: Option<usize>,
    /// What its heads cost, where every nozzle of it has a price.
    pub cost: Option<Decimal>,
    /// Running time that the peak week wants.
    pub minutes: Option<WeekMinutes>,
    /// Water in a year.
    pub year: Option<Volume>,
    /// Pressure that the nozzles want, and what is left for them at the design flow at the
    /// connection, before valve and laterals.
    pub pressure: (Pressure, Option<Pressure>),
    /// For drip, its rows as they are laid, or why they can't be.
    pub drip: Option<Result<Drip, DripFault>>,
    /// By this one way comes before another, the least first: its price over ten years, dearer by what it lacks; none
    /// where it can't be laid.
    pub weighed: Option<f64>,
}

/// Drip over an area as it is laid.
#[derive(Debug, Clone, PartialEq)]
pub struct Drip {
    /// Of one emitter.
    pub emitter: Flow,
    /// Between emitters on a row.
    pub emitters_apart: Length,
    /// Between rows.
    pub rows_apart: Length,
    /// Tubing in all.
    pub tubing: Length,
    /// Emitters in all.
    pub emitters: usize,
    /// Rows.
    pub rows: usize,
    /// Application rate.
    pub rate: Rate,
    /// Lays it in the place of what waters the area now.
    pub edit: Edit,
}

const KINDS: [Kind; 3] = [Kind::Spray, Kind::RotatorShort, Kind::Rotator];
const ROTORS: [Kind; 3] = [Kind::RotorShort, Kind::RotorMid, Kind::RotorLarge];

/// Spray, short rotator, standard rotator, the best of the rotors, and drip for an area. Each kind
/// is one step of progress, the rotors three. Ends early when stopped.
pub fn alternatives(job: &Job, available: Available, area: &str, progress: &Progress) -> Vec<Alternative> {
    let mut out = Vec::new();
    each_alternative(job, available, area, progress, &mut |way| out.push(way));
    out
}

/// The same, each told as soon as it is found.
pub fn each_alternative(
    job: &Job,
    available: Available,
    area: &str,
    progress: &Progress,
    tell: &mut dyn FnMut(Alternative),
) {
    let Some(ground) = job.site.area(area) else { return };
    // A kind that does not fit is a step done too.
    let try_kind = |kind: Kind| {
        let found = propose(job, area, kind, progress);
        progress.step();
        found
    };
    let trial = Trial { job, available, area, ground };
    for kind in KINDS {
        tell(trial.of_heads(kind, try_kind(kind)));
    }
    let weighed = |p: &Result<Proposal, LayoutFault>| p.as_ref().map_or(f64::INFINITY, |p| p.score.weighed());
    let rotors = ROTORS.iter().map(|kind| (*kind, try_kind(*kind)));
    // Of equals the first: the smallest.
    let best = rotors.reduce(|best, next| if weighed(&next.1) < weighed(&best.1) { next } else { best });
    if let Some((kind, heads)) = best {
        tell(trial.of_heads(kind, heads));
    }
    tell(trial.of_drip());
}

/// Minutes a week: need over rate, more where the water lies unevenly.
fn minutes(plan: &Plan, area: &Area, rate: Rate, du: f64) -> Option<WeekMinutes> {
    if rate.mmph() <= 0.0 {
        return None;
    }
    let need = need_per_week(plan, area);
    let multiplier = (1.0 / (0.4 + 0.6 * du.clamp(0.0, 1.0))).min(1.67);
    let minutes = Minutes::from_minutes(60.0 * need.depth.mm() / rate.mmph() * multiplier);
    Some(WeekMinutes { need, rate, du, multiplier, minutes })
}

/// An area for which kinds are tried.
struct Trial<'a> {
    job: &'a Job,
    available: Available,
    area: &'a str,
    ground: &'a Area,
}

impl Trial<'_> {
    fn of_heads(&self, kind: Kind, heads: Result<Proposal, LayoutFault>) -> Alternative {
        let score = heads.as_ref().ok().map(|p| p.score);
        // Run times go by the evenness that an audit would find, and by what lands on the ground.
        let even = heads.as_ref().ok().and_then(|p| p.expected).map(|e| e.du);
        let minutes = score.zip(even).and_then(|(s, du)| {
            let landing = Rate::from_mmph(s.rate.mmph() * (1.0 - s.overspray));
            minutes(self.job, self.ground, landing, du)
        });
        let cost = heads.as_ref().ok().and_then(|p| cost(self.job, p));
        let weighed = score.map(|s| s.weighed());
        Alternative { cost, heads, weighed, ..self.of(kind, score.map(|s| s.flow), minutes) }
    }

    /// Dripline by the soil, laid row by row.
    fn of_drip(&self) -> Alternative {
        let wish = DripWish { kind: Some(Kind::Dripline), ..DripWish::default() };
        let made = match design(self.job, self.area, &wish, self.available.flow) {
            Ok(made) => made,
            Err(fault) => {
                return Alternative { drip: Some(Err(fault)), ..self.of(Kind::Dripline, None, None) };
            }
        };
        let emitters_apart = match &made.group.drip {
            Some(DripLaying::Rows(rows)) => rows.emitter_spacing,
            _ => made.group.spacing,
        };
        let rows_apart = made.parts.iter().map(|p| p.row_spacing).reduce(Length::max).unwrap_or_default();
        let flow: Flow = made.parts.iter().map(Laid::flow).sum();
        let emitters: usize = made.parts.iter().map(|p| p.emitters.len()).sum();
        let m2: f64 = made.parts.iter().map(|p| p.ground_m2).sum();
        let rate = Rate::from_mmph(flow.lpm() * 60.0 / m2.max(1e-9));
        // Emitters that compensate give nearly the same everywhere.
        let minutes = minutes(self.job, self.ground, rate, DRIP_DU);
        let weighed = Some(Prices::of(self.job, self.ground, Kind::Dripline).of_drip(self.job, &made, m2));
        let drip = Drip {
            emitter: flow * (1.0 / emitters.max(1) as f64),
            emitters_apart,
            rows_apart,
            tubing: Length::from_m(made.parts.iter().map(|p| p.dripline().m()).sum()),
            emitters,
            rows: made.parts.iter().map(|p| p.rows.len()).sum(),
            rate,
            edit: made.edit,
        };
        Alternative { drip: Some(Ok(drip)), weighed, ..self.of(Kind::Dripline, Some(flow), minutes) }
    }

    fn of(&self, kind: Kind, flow: Option<Flow>, minutes: Option<WeekMinutes>) -> Alternative {
        let design = self.available.flow.filter(|d| d.lpm() > 0.0);
        let volume =
            |f: Flow, m: WeekMinutes| Volume::from_litres(f.lpm() * m.minutes.minutes() * m.need.weeks);
        Alternative {
            area: self.area.to_owned(),
            kind,
            heads: Err(LayoutFault::NoNozzle),
            flow,
            valves: flow.zip(design).map(|(f, d)| ((f / d - 1e-6).ceil() as usize).max(1)),
            cost: None,
            minutes,
            year: flow.zip(minutes).map(|(f, m)| volume(f, m)),
            pressure: (self.job.catalogue().class(kind).nominal, self.available.left),
            drip: None,
            weighed: None,
        }
    }
}

/// Prices of the nozzles together; none if one of them has none.
fn cost(plan: &Plan, proposal: &Proposal) -> Option<Decimal> {
    let price = |id: &str| plan.nozzles.iter().find(|n| n.id == id)?.price;
    proposal.heads.iter().map(|h| price(&h.nozzle)).sum()
}
