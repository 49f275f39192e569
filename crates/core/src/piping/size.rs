//! Sizes at least cost: the cheapest of the sizes that are made for every leg of a tree, such that every
//! head keeps its aim, heads of a zone stay within their spread, and no water runs too fast.
//!
//! From the ends of the tree inwards each joint keeps every choice for what hangs on it that no other
//! choice beats in all of cost, pressure wanted and spread; the cheapest that the inlet can feed is the
//! answer. It is exact as long as no joint's list had to be cut ([`Sized::proven`]).
//!
//! # Source
//! Bellman (1957), dynamic programming, as Wong and Larson (1968) put it to tree-shaped pipelines;
//! friction by Hazen and Williams.

use crate::network::hazen_williams;
use crate::units::{Flow, KPA_PER_M, Length, Pressure, Speed};
use crate::zone::Bore;

/// Choices that a joint keeps at most.
const MOST_KEPT: usize = 2_000;
/// Where pressure is lacking whatever the pipe, what smaller pipe may still cost the heads: half a psi.
pub const ABOUT: Pressure = Pressure::from_kpa(3.45);
/// Two costs that are one.
const SAME_COST: f64 = 1e-9;

/// A size that can be laid.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Size {
    /// Its bore.
    pub bore: Bore,
    /// What a metre costs.
    pub price: f64,
}

/// A leg to be sized.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct SizeLeg {
    /// The leg that it hangs on, which stands before it in the list; none: the inlet.
    pub parent: Option<usize>,
    /// Its length.
    pub length: Length,
    /// What it carries.
    pub flow: Flow,
    /// How much its end lies above its beginning.
    pub rise: Length,
    /// Its size, by place in the list of sizes, where that is pinned.
    pub pinned: Option<usize>,
    /// What the head or valve at its end wants; none: a tee.
    pub wants: Option<Pressure>,
}

/// What the sizes have to keep to.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Limits {
    /// Pressure at the inlet.
    pub inlet: Pressure,
    /// Fastest that water may run.
    pub velocity: Speed,
    /// Widest that the pressures at heads may lie apart; none: as they come.
    pub spread: Option<Pressure>,
    /// Allowance for fittings on the friction of pipes.
    pub fittings: f64,
}

/// Sizes for all legs.
#[derive(Debug, Clone, PartialEq)]
pub struct Sized {
    /// By leg: place in the list of sizes.
    pub sizes: Vec<usize>,
    /// What the pipe costs.
    pub cost: f64,
    /// No choice costs less.
    pub bound: f64,
    /// No other choice is cheaper.
    pub proven: bool,
    /// What was asked for could not be kept: the sizes keep what the largest would, to [`ABOUT`].
    pub short: Option<Short>,
}

/// What even the largest sizes can't keep.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Short {
    /// So much pressure is lacking at the worst head.
    Pressure(Pressure),
    /// Pressures lie so far apart.
    Spread(Pressure),
    /// Water runs so fast in a leg, by its place.
    Velocity(usize, Speed),
}

/// A choice for all that hangs on a joint.
#[derive(Debug, Clone, Copy)]
struct Choice {
    /// Pressure wanted at the joint, kPa.
    wants: f64,
    /// Most and least that is lost to any head, kPa.
    most: f64,
    least: f64,
    cost: f64,
    /// How it was made, in the log of choices.
    made: usize,
}

#[derive(Debug, Clone, Copy)]
enum Made {
    /// Nothing chosen yet.
    Bare,
    /// A leg with a size, before what hangs on it.
    Leg(usize, usize, usize),
    /// Two side by side.
    Both(usize, usize),
}

struct Table<'a> {
    legs: &'a [SizeLeg],
    sizes: &'a [Size],
    limits: Limits,
    /// Friction and height by leg and size, kPa.
    loss: Vec<Vec<f64>>,
    /// Sizes that may be laid, by leg.
    may: Vec<Vec<usize>>,
}

impl Table<'_> {
    /// Lost from the inlet to the beginning of each leg at the least, and the pipe that costs least.
    fn ahead(&self) -> Vec<f64> {
        let mut ahead = vec![0.0; self.legs.len()];
        for (i, leg) in self.legs.iter().enumerate() {
            if let Some(p) = leg.parent {
                ahead[i] = ahead[p] + self.least_loss(p);
            }
        }
        ahead
    }
    fn least_loss(&self, leg: usize) -> f64 {
        let of = |s: &usize| self.loss[leg][*s];
        self.may[leg].iter().map(of).fold(f64::INFINITY, f64::min)
    }
    fn cost(&self, leg: usize, size: usize) -> f64 {
        self.sizes[size].price * self.legs[leg].length.m()
    }
    fn least_cost(&self, leg: usize) -> f64 {
        let of = |s: &usize| self.cost(leg, *s);
        self.may[leg].iter().map(of).fold(f64::INFINITY, f64::min)
    }
    /// Cost of a whole set of sizes, if it keeps to everything.
    fn try_all(&self, sizes: &[usize]) -> Result<f64, Short> {
        let mut lost = vec![0.0; self.legs.len()];
        let (mut most, mut least, mut lack) = (f64::NEG_INFINITY, f64::INFINITY, 0.0f64);
        let mut cost = 0.0;
        for (i, leg) in self.legs.iter().enumerate() {
            lost[i] = leg.parent.map_or(0.0, |p| lost[p]) + self.loss[i][sizes[i]];
            cost += self.cost(i, sizes[i]);
            if let Some(wants) = leg.wants {
                lack = lack.max(wants.kpa() + lost[i] - self.limits.inlet.kpa());
                most = most.max(lost[i]);
                least = least.min(lost[i]);
            }
        }
        if lack > 1e-9 {
            return Err(Short::Pressure(Pressure::from_kpa(lack)));
        }
        match self.limits.spread {
            Some(spread) if most - least > spread.kpa() + 1e-9 => {
                Err(Short::Spread(Pressure::from_kpa(most - least)))
            }
            _ => Ok(cost),
        }
    }
}

/// The cheapest sizes: see the head of this file.
///
/// # Valid range
/// Legs stand behind the leg that they hang on; sizes rise by bore and price; lengths and flows of zero
/// or more. Flows are taken as given: solve what comes out and size again where they change.
pub fn least_cost(legs: &[SizeLeg], sizes: &[Size], limits: Limits) -> Sized {
    let loss: Vec<Vec<f64>> = legs
        .iter()
        .map(|leg| {
            let friction = |s: &Size| {
                hazen_williams(leg.flow, leg.length * (1.0 + limits.fittings), s.bore.inside, s.bore.c)
            };
            sizes.iter().map(|s| friction(s).kpa() + leg.rise.m() * KPA_PER_M).collect()
        })
        .collect();
    let last = sizes.len().saturating_sub(1);
    let mut fast = None;
    let may = legs
        .iter()
        .enumerate()
        .map(|(i, leg)| {
            if let Some(pinned) = leg.pinned {
                return vec![pinned.min(last)];
            }
            let speed = |s: usize| Speed::in_pipe(leg.flow, sizes[s].bore.inside);
            let slow: Vec<usize> =
                (0..sizes.len()).filter(|s| speed(*s) <= limits.velocity * (1.0 + 1e-9)).collect();
            if slow.is_empty() {
                fast = fast.or(Some(Short::Velocity(i, speed(last))));
                return vec![last];
            }
            slow
        })
        .collect();
    let mut table = Table { legs, sizes, limits, loss, may };
    let largest: Vec<usize> = table.may.iter().map(|m| m[m.len() - 1]).collect();
    let all_largest = table.try_all(&largest);
    let mut short = None;
    let mut all_largest = all_largest;
    if let Err(lack @ Short::Pressure(pressure)) = all_largest {
        // What can't be had isn't asked for: the cheapest that leave the heads about as much as the largest
        // would.
        table.limits.inlet = table.limits.inlet + pressure + ABOUT;
        short = Some(lack);
        all_largest = table.try_all(&largest);
    }
    let mut found = search(&table);
    if found.is_none()
        && let Err(lack @ Short::Spread(spread)) = all_largest
    {
        // A smaller pipe to the nearest head may bring pressures together; if not even that does, the
        // spread of the largest sizes is what there is.
        table.limits.spread = Some(spread);
        short = short.or(Some(lack));
        found = search(&table);
    }
    let (chosen, proven) = found.unwrap_or((largest, true));
    let chosen = with_fewer_sizes(&table, chosen);
    let cost = (0..legs.len()).map(|i| table.cost(i, chosen[i])).sum();
    let cheapest: f64 = (0..legs.len()).map(|i| table.least_cost(i)).sum();
    Sized { sizes: chosen, cost, bound: if proven { cost } else { cheapest }, proven, short: fast.or(short) }
}

/// A choice that keeps to everything, from the cheapest sizes up: what wins most for its money is
/// enlarged until all is kept.
fn greedy(table: &Table<'_>) -> Option<f64> {
    let mut at: Vec<usize> = vec![0; table.legs.len()];
    let size = |at: &[usize]| -> Vec<usize> { (0..at.len()).map(|i| table.may[i][at[i]]).collect() };
    for _ in 0..table.legs.len() * table.sizes.len() + 1 {
        let sizes = size(&at);
        if let Ok(cost) = table.try_all(&sizes) {
            return Some(cost);
        }
        // The head that wants most, and the legs that lead to it.
        let mut lost = vec![0.0; table.legs.len()];
        let mut worst: Option<(f64, usize)> = None;
        for (i, leg) in table.legs.iter().enumerate() {
            lost[i] = leg.parent.map_or(0.0, |p| lost[p]) + table.loss[i][sizes[i]];
            if let Some(wants) = leg.wants
                && worst.is_none_or(|w| wants.kpa() + lost[i] > w.0)
            {
                worst = Some((wants.kpa() + lost[i], i));
            }
        }
        let mut leg = worst.map(|w| w.1);
        let mut best: Option<(f64, usize)> = None;
        while let Some(i) = leg {
            if at[i] + 1 < table.may[i].len() {
                let next = table.may[i][at[i] + 1];
                let more = (table.cost(i, next) - table.cost(i, sizes[i])).max(1e-12);
                let wins = (table.loss[i][sizes[i]] - table.loss[i][next]) / more;
                if best.is_none_or(|b| wins > b.0) {
                    best = Some((wins, i));
                }
            }
            leg = table.legs[i].parent;
        }
        at[best?.1] += 1;
    }
    None
}

fn search(table: &Table<'_>) -> Option<(Vec<usize>, bool)> {
    let n = table.legs.len();
    let ahead = table.ahead();
    let cheapest: f64 = (0..n).map(|i| table.least_cost(i)).sum();
    let known = greedy(table);
    // All of one size is a choice too.
    let one_size = (0..table.sizes.len()).filter_map(|s| {
        let pick = |m: &Vec<usize>| *m.iter().find(|x| **x >= s).unwrap_or(&m[m.len() - 1]);
        table.try_all(&table.may.iter().map(pick).collect::<Vec<_>>()).ok()
    });
    let ceiling = one_size.chain(known).fold(f64::INFINITY, f64::min) * (1.0 + 1e-9) + SAME_COST;
    let spread = table.limits.spread.map_or(f64::INFINITY, |s| s.kpa() + 1e-9);
    let mut log = vec![Made::Bare];
    let mut proven = true;
    // What hangs on the end of each leg, and the least that all of it costs.
    let mut hangs: Vec<Option<Vec<Choice>>> = vec![None; n];
    let mut floor = vec![0.0; n];
    let mut at_inlet: Option<Vec<Choice>> = None;
    let mut inlet_floor = 0.0;
    for i in (0..n).rev() {
        let leg = &table.legs[i];
        let own = leg
            .wants
            .map(|wants| vec![Choice { wants: wants.kpa(), most: 0.0, least: 0.0, cost: 0.0, made: 0 }]);
        let behind = match (hangs[i].take(), own) {
            (Some(a), Some(b)) => both(&a, &b, &mut log),
            (Some(a), None) | (None, Some(a)) => a,
            // A leg to nowhere takes the cheapest pipe.
            (None, None) => vec![Choice {
                wants: f64::NEG_INFINITY,
                most: f64::NEG_INFINITY,
                least: f64::INFINITY,
                cost: 0.0,
                made: 0,
            }],
        };
        floor[i] += table.least_cost(i);
        let mut choices = Vec::with_capacity(behind.len() * table.may[i].len());
        for &s in &table.may[i] {
            let (lost, cost) = (table.loss[i][s], table.cost(i, s));
            for c in &behind {
                let next = Choice {
                    wants: c.wants + lost,
                    most: c.most + lost,
                    least: c.least + lost,
                    cost: c.cost + cost,
                    made: log.len(),
                };
                let feeds = next.wants + ahead[i] <= table.limits.inlet.kpa() + 1e-9;
                if feeds && next.cost - floor[i] + cheapest <= ceiling {
                    log.push(Made::Leg(i, s, c.made));
                    choices.push(next);
                }
            }
        }
        let choices = best_of(choices, spread, &mut proven);
        let here = floor[i];
        let (slot, sum) = match leg.parent {
            Some(p) => (&mut hangs[p], &mut floor[p]),
            None => (&mut at_inlet, &mut inlet_floor),
        };
        let sum_before = *sum;
        *sum += here;
        let joined = match slot.take() {
            Some(before) => {
                let mut all = both(&before, &choices, &mut log);
                all.retain(|c| c.cost - (sum_before + here) + cheapest <= ceiling);
                best_of(all, spread, &mut proven)
            }
            None => choices,
        };
        *slot = Some(joined);
    }
    let winner = at_inlet?
        .into_iter()
        .filter(|c| c.wants <= table.limits.inlet.kpa() + 1e-9)
        .min_by(|a, b| a.cost.total_cmp(&b.cost))?;
    let mut sizes: Vec<usize> = table.may.iter().map(|m| m[0]).collect();
    let mut open = vec![winner.made];
    while let Some(made) = open.pop() {
        match log[made] {
            Made::Bare => {}
            Made::Leg(leg, size, behind) => {
                sizes[leg] = size;
                open.push(behind);
            }
            Made::Both(a, b) => open.extend([a, b]),
        }
    }
    Some((sizes, proven))
}

/// Every pair of two lists, side by side.
fn both(a: &[Choice], b: &[Choice], log: &mut Vec<Made>) -> Vec<Choice> {
    let mut all = Vec::with_capacity(a.len() * b.len());
    for x in a {
        for y in b {
            all.push(Choice {
                wants: x.wants.max(y.wants),
                most: x.most.max(y.most),
                least: x.least.min(y.least),
                cost: x.cost + y.cost,
                made: log.len(),
            });
            log.push(Made::Both(x.made, y.made));
        }
    }
    all
}

/// The choices that no other beats in everything.
fn best_of(mut all: Vec<Choice>, spread: f64, proven: &mut bool) -> Vec<Choice> {
    all.retain(|c| c.most - c.least <= spread || c.least == f64::INFINITY);
    all.sort_by(|a, b| a.cost.total_cmp(&b.cost).then(a.wants.total_cmp(&b.wants)));
    let mut kept: Vec<Choice> = Vec::new();
    for c in all {
        let beaten = |k: &Choice| {
            // Without a limit of spread it does not matter how near the nearest head is.
            let near = spread.is_infinite() || k.least >= c.least - 1e-12 && k.most <= c.most + 1e-12;
            k.wants <= c.wants + 1e-12 && near
        };
        if !kept.iter().any(beaten) {
            kept.push(c);
            if kept.len() == MOST_KEPT {
                *proven = false;
                break;
            }
        }
    }
    kept
}

/// The same cost with fewer sizes, where there is such a choice.
fn with_fewer_sizes(table: &Table<'_>, mut chosen: Vec<usize>) -> Vec<usize> {
    let cost = |c: &[usize]| -> f64 { (0..c.len()).map(|i| table.cost(i, c[i])).sum() };
    let now = cost(&chosen);
    let mut used: Vec<usize> = chosen.clone();
    used.sort_unstable();
    used.dedup();
    for &size in &used {
        for &instead in used.iter().filter(|s| **s != size) {
            let change = |i: usize| chosen[i] == size && table.legs[i].pinned.is_none();
            let tried: Vec<usize> =
                (0..chosen.len()).map(|i| if change(i) { instead } else { chosen[i] }).collect();
            let may = (0..tried.len()).all(|i| table.may[i].contains(&tried[i]));
            if tried != chosen && may && table.try_all(&tried).is_ok_and(|c| c <= now + SAME_COST) {
                chosen = tried;
            }
        }
    }
    chosen
}
