//! Kinds of head laid out on every area, and compared as whole plans.

use super::kinds::{KindFault, kinds};
use super::price::{TenYears, ten_years, with_planning_prices};
use super::steps::{Piped, Steps, carry_out};
use crate::assess::assess;
use crate::catalogue::Kind;
use crate::drip::{DripDesign, DripFault, DripWish, design, usual_kind};
use crate::job::Job;
use crate::layout::{Alternative, LAID_OUT, LayoutFault, Prices, Proposal, lay_out, propose};
use crate::plan::Edit;
use crate::pricing::PriceBook;
use crate::progress::Progress;
use crate::units::Flow;
use std::collections::HashMap;

/// What a plan is asked for.
#[derive(Debug, Clone)]
pub struct Wish {
    /// Areas to lay out; none: all that are not for later.
    pub areas: Vec<String>,
    /// The kind of head for all of them; none: the one that comes cheapest.
    pub kind: Option<Kind>,
    /// What follows the heads.
    pub steps: Steps,
    /// The year of the calendar that the night goes by.
    pub year: i32,
}

/// What was laid on an area.
#[derive(Debug, Clone)]
pub enum Made {
    /// Heads.
    Heads(Box<Proposal>),
    /// Drip.
    Drip(Box<DripDesign>),
}

/// Why nothing was.
#[derive(Debug, Clone, PartialEq)]
pub enum LayFault {
    /// Heads that throw.
    Heads(LayoutFault),
    /// Drip.
    Drip(DripFault),
    /// Laid, and refused by the job's own rules, in words.
    Refused(String),
}

/// An area with what was laid on it.
#[derive(Debug, Clone)]
pub struct Laid {
    /// Its id.
    pub area: String,
    /// What, or why nothing.
    pub made: Result<Made, LayFault>,
}

/// One kind on one area.
#[derive(Debug, Clone, PartialEq)]
pub struct Way {
    /// The kind.
    pub kind: Kind,
    /// The whole plan with it, where that was carried out; none: its price is an estimate from its layout alone.
    pub whole: Option<TenYears>,
    /// What it costs more over ten years than the way that was taken.
    pub more: f64,
    /// Its layout does by itself what every layout must.
    pub sound: bool,
}

/// What an area was given, and what else it could have.
#[derive(Debug, Clone, PartialEq)]
pub struct Choice {
    /// Id of the area.
    pub area: String,
    /// The kind that was taken.
    pub taken: Kind,
    /// Heads, or inlets of drip, that it comes to.
    pub heads: usize,
    /// The other ways, the best of them first.
    pub others: Vec<Way>,
    /// Kinds that the water rules out.
    pub ruled_out: Vec<(Kind, KindFault)>,
}

/// A whole plan, and how it came about.
#[derive(Debug, Clone)]
pub struct Planned {
    /// What lies on each area.
    pub laid: Vec<Laid>,
    /// Why those kinds.
    pub choices: Vec<Choice>,
    /// Heads on valves, pipe, sizes, regulators; the job that comes out.
    pub piped: Piped,
    /// What it costs; none where kinds were not to be compared.
    pub price: Option<TenYears>,
    /// Whole plans that were carried out and priced.
    pub tried: usize,
}

/// One kind laid out on one area, before anything is piped.
struct Candidate {
    kind: Kind,
    made: Made,
    /// By its layout alone: its price over ten years, and that with what it lacks.
    price: f64,
    weighed: f64,
}

/// The options of one area, the cheapest by its layout first.
struct Area {
    id: String,
    options: Vec<Candidate>,
    fault: Option<LayFault>,
    ruled_out: Vec<(Kind, KindFault)>,
}

/// Whole plans are carried out for so many heads in all; at least one.
const HEADS_TO_TRY: usize = 400;
/// A layout that lacks so little of what it must do is sound: a hundredth of evenness, a finding to watch.
const SOUND: f64 = 1.7;
/// And so many plans at the most.
const MOST_TRIED: usize = 12;
/// Options whose estimate is over so many times the least are not carried out.
const HOPELESS: f64 = 2.5;

/// A whole plan for drawn ground: heads or drip on every area, onto valves, piped, sized and regulated.
///
/// Every kind that suits an area is laid out on it. Whole plans are then carried out with the kinds that their layouts
/// make cheapest, with one kind on all areas that bear it, and with the kind of one area after the other exchanged; the one
/// is taken that costs the least over ten years among those without a finding to be mended. On large ground few or none
/// are exchanged, and layouts decide. Deterministic.
pub fn plan(job: &Job, wish: &Wish, book: &PriceBook, progress: &Progress) -> Planned {
    let limit = assess(job).flow_for_drip(job);
    let areas: Vec<Area> =
        wanted(job, wish).into_iter().map(|id| area(job, id, wish, limit, progress)).collect();
    let book = with_planning_prices(book);
    let mut trials = Trials { job, areas: &areas, limit, book: &book, year: wish.year, seen: HashMap::new() };
    let first = vec![0; areas.len()];
    let open = areas.iter().any(|a| a.options.len() > 1);
    let chosen = if open { trials.search(first, progress) } else { first };
    let (base, laid) = trials.laid(&chosen);
    let piped = carry_out(&base, wish.steps);
    let choices = areas.iter().enumerate().filter_map(|(i, a)| trials.choice(i, a, &chosen)).collect();
    let price = trials.seen.get(&chosen).copied().flatten();
    let tried = trials.seen.len();
    Planned { laid, choices, piped, price, tried }
}

fn wanted(job: &Job, wish: &Wish) -> Vec<String> {
    let all = job.site.areas().map(|(thing, area)| (thing.id.clone(), area.later));
    // What comes later is laid out when it is named.
    all.filter(|(id, later)| if wish.areas.is_empty() { !later } else { wish.areas.contains(id) })
        .map(|(id, _)| id)
        .collect()
}

fn area(job: &Job, id: String, wish: &Wish, limit: Option<Flow>, progress: &Progress) -> Area {
    let (suits, ruled_out) = match wish.kind {
        Some(kind) => (vec![kind], Vec::new()),
        None => kinds(job, &id),
    };
    let mut options: Vec<Candidate> = Vec::new();
    let mut fault = None;
    for kind in suits {
        match lay(job, &id, kind, wish.kind.is_some(), limit, progress) {
            Ok(made) => {
                options.push(Candidate::of(job, &id, kind, made));
            }
            Err(why) => fault = fault.or(Some(why)),
        }
    }
    if options.is_empty() && wish.kind.is_none() && matches!(fault, Some(LayFault::Heads(_))) {
        // Nothing that throws keeps to it.
        if let Ok(made) = lay(job, &id, Kind::Dripline, false, limit, progress) {
            options.push(Candidate::of(job, &id, Kind::Dripline, made));
        }
    }
    options.sort_by(|a, b| a.weighed.total_cmp(&b.weighed));
    Area { id, options, fault, ruled_out }
}

/// One kind on one area. Drip that was not asked for by name is what the plants ask for.
fn lay(
    job: &Job,
    area: &str,
    kind: Kind,
    asked: bool,
    limit: Option<Flow>,
    progress: &Progress,
) -> Result<Made, LayFault> {
    if LAID_OUT.contains(&kind) {
        let proposal = propose(job, area, kind, progress).map_err(LayFault::Heads)?;
        return Ok(Made::Heads(Box::new(proposal)));
    }
    let planted = || job.site.area(area).is_some_and(|a| usual_kind(job, a) == Kind::Emitter);
    let named = asked || kind == Kind::Emitter && planted();
    let wish = DripWish { kind: named.then_some(kind), ..DripWish::default() };
    let made = design(job, area, &wish, limit).map_err(LayFault::Drip)?;
    Ok(Made::Drip(Box::new(made)))
}

impl Candidate {
    fn of(job: &Job, area: &str, kind: Kind, made: Made) -> Self {
        let (price, weighed) = match (&made, job.site.area(area)) {
            (Made::Heads(p), _) => (p.score.cost, p.score.weighed()),
            (Made::Drip(_), None) => (f64::MAX, f64::MAX),
            (Made::Drip(drip), Some(ground)) => {
                let prices = Prices::of(job, ground, kind);
                let price = prices.of_drip(job, drip, ground.shape.area_m2());
                (price, price)
            }
        };
        Self { kind, made, price, weighed }
    }

    /// What every layout must do, this one does.
    fn is_sound(&self) -> bool {
        self.weighed < self.price * SOUND
    }
}

/// Of the ways that an area was compared with, the kind that its layout makes cheapest over ten years, of those that suit
/// the ground and the water.
pub fn cheapest<'w>(job: &Job, area: &str, ways: impl Iterator<Item = &'w Alternative>) -> Option<Kind> {
    let (may, _) = kinds(job, area);
    let suits = ways.filter(|w| may.contains(&w.kind)).filter_map(|w| Some((w.kind, w.weighed?)));
    suits.min_by(|a, b| a.1.total_cmp(&b.1)).map(|w| w.0)
}

/// Whole plans with one option of each area, each carried out once.
struct Trials<'a> {
    job: &'a Job,
    areas: &'a [Area],
    limit: Option<Flow>,
    book: &'a PriceBook,
    year: i32,
    seen: HashMap<Vec<usize>, Option<TenYears>>,
}

impl Trials<'_> {
    /// The job with heads and drip, each laid on the plan as the one before leaves it, so that names stay apart.
    fn laid(&self, chosen: &[usize]) -> (Job, Vec<Laid>) {
        let mut job = self.job.clone();
        let mut laid = Vec::new();
        for (area, option) in self.areas.iter().zip(chosen) {
            let made = match area.options.get(*option) {
                None => Err(area.fault.clone().unwrap_or(LayFault::Heads(LayoutFault::NoArea))),
                Some(option) => match self
                    .edit(&job, area, option)
                    .and_then(|edit| job.apply(&edit).map_err(|e| LayFault::Refused(e.to_string())))
                {
                    Ok((next, _)) => {
                        job = next;
                        Ok(option.made.clone())
                    }
                    Err(why) => Err(why),
                },
            };
            laid.push(Laid { area: area.id.clone(), made });
        }
        (job, laid)
    }

    fn edit(&self, job: &Job, area: &Area, option: &Candidate) -> Result<Edit, LayFault> {
        match &option.made {
            Made::Heads(proposal) => Ok(lay_out(job, proposal)),
            Made::Drip(was) => {
                let wish = DripWish::like(&was.group);
                design(job, &area.id, &wish, self.limit).map(|d| d.edit).map_err(LayFault::Drip)
            }
        }
    }

    fn weighed(&mut self, chosen: &[usize]) -> f64 {
        if let Some(known) = self.seen.get(chosen) {
            return known.map_or(f64::MAX, |p| p.weighed());
        }
        let (job, _) = self.laid(chosen);
        let piped = carry_out(&job, Steps::ALL);
        let price = ten_years(&piped.job, self.book, self.year);
        self.seen.insert(chosen.to_vec(), Some(price));
        price.weighed()
    }

    /// The best of the plans that there is time for.
    fn search(&mut self, first: Vec<usize>, progress: &Progress) -> Vec<usize> {
        let heads: usize = self.areas.iter().filter_map(|a| a.options.first()).map(|o| count(&o.made)).sum();
        let budget = (HEADS_TO_TRY / heads.max(1)).min(MOST_TRIED);
        if budget < 2 {
            return first;
        }
        let mut best = (self.weighed(&first), first);
        let mut tries = self.alike();
        for i in 0..self.areas.len() {
            let others = 1..self.areas[i].options.len();
            tries.extend(others.map(|o| (self.far(i, o), vec![(i, o)])));
        }
        // What its layout makes nearly as cheap comes first.
        tries.sort_by(|a, b| a.0.total_cmp(&b.0));
        for (far, change) in tries {
            if self.seen.len() >= budget || progress.stopped() {
                break;
            }
            if far > HOPELESS {
                continue;
            }
            let mut next = best.1.clone();
            change.iter().for_each(|(i, o)| next[*i] = *o);
            let weighed = self.weighed(&next);
            if weighed < best.0 {
                best = (weighed, next);
            }
        }
        best.1
    }

    /// How many times as dear an option looks as the cheapest of its area.
    fn far(&self, area: usize, option: usize) -> f64 {
        let options = &self.areas[area].options;
        options[option].weighed / options[0].weighed.max(1e-9)
    }

    /// One kind on all areas that bear it: they may share valves then.
    fn alike(&self) -> Vec<(f64, Vec<(usize, usize)>)> {
        let mut kinds: Vec<Kind> = self.areas.iter().flat_map(|a| a.options.iter().map(|o| o.kind)).collect();
        kinds.sort_unstable();
        kinds.dedup();
        let of = |kind: Kind| {
            let at = |(i, a): (usize, &Area)| Some((i, a.options.iter().position(|o| o.kind == kind)?));
            let change: Vec<(usize, usize)> = self.areas.iter().enumerate().filter_map(at).collect();
            let far = change.iter().map(|(i, o)| self.far(*i, *o)).fold(0.0, f64::max);
            (change.len() > 1 && change.iter().any(|c| c.1 > 0)).then_some((far, change))
        };
        kinds.into_iter().filter_map(of).collect()
    }

    /// What an area was given, and by how much the others are dearer: by whole plans that differ in that area alone, else
    /// by their layouts.
    fn choice(&self, i: usize, area: &Area, chosen: &[usize]) -> Option<Choice> {
        let taken = area.options.get(chosen[i])?;
        let now = self.seen.get(chosen).copied().flatten();
        let way = |(o, option): (usize, &Candidate)| {
            let mut other = chosen.to_vec();
            other[i] = o;
            let whole = self.seen.get(&other).copied().flatten();
            let more = match (whole, now) {
                (Some(whole), Some(now)) => whole.sum() - now.sum(),
                _ => option.price - taken.price,
            };
            Way { kind: option.kind, whole, more, sound: option.is_sound() }
        };
        let mut others: Vec<Way> =
            area.options.iter().enumerate().filter(|(o, _)| *o != chosen[i]).map(way).collect();
        let weighed = |w: &Way| w.whole.map_or(f64::MAX, |p| p.weighed());
        others.sort_by(|a, b| weighed(a).total_cmp(&weighed(b)).then(a.more.total_cmp(&b.more)));
        let ruled_out = area.ruled_out.clone();
        let heads = match &taken.made {
            Made::Heads(p) => p.heads.len(),
            Made::Drip(d) => d.parts.len(),
        };
        Some(Choice { area: area.id.clone(), taken: taken.kind, heads, others, ruled_out })
    }
}

fn count(made: &Made) -> usize {
    match made {
        Made::Heads(p) => p.heads.len(),
        // Rows of drip are solved as a network of their own.
        Made::Drip(d) => 5 * d.parts.len(),
    }
}
