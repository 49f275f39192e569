//! Areas kept whole: a valve waters part of one area, or several areas and nothing else.
//!
//! Nobody who stands beside a valve box looks for one head of the back lawn on the valve of the front lawn.
//! An area therefore lies on valves of its own, or all of it on one valve together with other small areas.

use super::class::Class;
use super::place::Places;

/// The areas of a class, each with its heads.
struct Areas {
    heads: Vec<Vec<usize>>,
    flows: Vec<f64>,
    /// Shortest way from one to another, row by row; none where heads have no places.
    apart: Option<Vec<f64>>,
}

/// Areas that share valves, and how many.
struct Bin {
    areas: Vec<usize>,
    valves: usize,
}

/// A class on `n` valves of about even flow, no area partly on a valve of another.
///
/// The flow of the fullest valve is made as small as it can be by bisection; small areas join their nearest
/// neighbour while both fit.
pub(super) fn parts(class: &Class<'_>, places: Option<&Places>, n: usize) -> Vec<Vec<usize>> {
    let areas = Areas::of(class, places);
    let mut zones = Vec::new();
    for bin in areas.bins(n.clamp(1, class.len().max(1))) {
        let heads: Vec<usize> = bin.areas.iter().flat_map(|a| areas.heads[*a].clone()).collect();
        match places {
            _ if bin.valves == 1 => zones.push(heads),
            Some(places) => zones.extend(places.zones(heads, bin.valves)),
            None => zones.extend(even_parts(class, &heads, bin.valves)),
        }
    }
    for zone in &mut zones {
        zone.sort_unstable();
    }
    zones.sort();
    zones
}

impl Areas {
    fn of(class: &Class<'_>, places: Option<&Places>) -> Self {
        let mut keys: Vec<&str> = Vec::new();
        let mut heads: Vec<Vec<usize>> = Vec::new();
        for (i, candidate) in class.iter().enumerate() {
            let key = candidate.group.area.as_deref().unwrap_or(&candidate.group.id);
            match keys.iter().position(|k| *k == key) {
                Some(at) => heads[at].push(i),
                None => {
                    keys.push(key);
                    heads.push(vec![i]);
                }
            }
        }
        let flow = |of: &Vec<usize>| of.iter().map(|i| class[*i].flow.lpm()).sum();
        let apart = places.map(|places| {
            let pairs = heads.iter().flat_map(|a| heads.iter().map(move |b| (a, b)));
            pairs.map(|(a, b)| places.nearest(a, b)).collect()
        });
        Self { flows: heads.iter().map(flow).collect(), heads, apart }
    }

    /// Bins of `n` valves in all.
    fn bins(&self, n: usize) -> Vec<Bin> {
        let total: f64 = self.flows.iter().sum();
        let (mut low, mut high) = (total / n as f64, total);
        for _ in 0..40 {
            let middle = (low + high) / 2.0;
            if count(&self.filled(middle)) > n {
                low = middle;
            } else {
                high = middle;
            }
        }
        let mut bins = self.filled(high * (1.0 + 1e-9));
        while count(&bins) < n {
            if !self.spread(&mut bins) {
                break;
            }
        }
        bins
    }

    /// One valve more for the fullest: an area for itself, or a valve more for an area.
    fn spread(&self, bins: &mut Vec<Bin>) -> bool {
        let full = |bin: &Bin| bin.areas.iter().map(|a| self.flows[*a]).sum::<f64>() / bin.valves as f64;
        let more = |bin: &&mut Bin| {
            bin.areas.len() > 1 || bin.areas.iter().any(|a| self.heads[*a].len() > bin.valves)
        };
        let fullest = bins.iter_mut().filter(more).max_by(|a, b| full(a).total_cmp(&full(b)));
        let Some(bin) = fullest else { return false };
        if bin.areas.len() == 1 {
            bin.valves += 1;
            return true;
        }
        let largest = (0..bin.areas.len())
            .max_by(|a, b| self.flows[bin.areas[*a]].total_cmp(&self.flows[bin.areas[*b]]))
            .unwrap_or(0);
        let own = bin.areas.remove(largest);
        bins.push(Bin { areas: vec![own], valves: 1 });
        true
    }

    /// Areas on valves of so much at the most: large ones by themselves, small ones with their neighbours, or
    /// wherever they fit if that takes fewer.
    fn filled(&self, capacity: f64) -> Vec<Bin> {
        let (mut large, mut small) = (Vec::new(), Vec::new());
        for area in 0..self.flows.len() {
            let valves = (self.flows[area] / capacity - 1e-9).ceil().max(1.0) as usize;
            if valves > 1 {
                large.push(Bin { areas: vec![area], valves: valves.min(self.heads[area].len()) });
            } else {
                small.push(area);
            }
        }
        let near = self.with_neighbours(&small, capacity);
        let tight = self.wherever(&small, capacity);
        let joined = if tight.len() < near.len() { tight } else { near };
        large.extend(joined.into_iter().map(|areas| Bin { areas, valves: 1 }));
        large
    }

    /// The two nearest that fit together join, again and again.
    fn with_neighbours(&self, small: &[usize], capacity: f64) -> Vec<Vec<usize>> {
        let mut bins: Vec<Vec<usize>> = small.iter().map(|a| vec![*a]).collect();
        let flow = |bin: &[usize]| bin.iter().map(|a| self.flows[*a]).sum::<f64>();
        let way = |a: &[usize], b: &[usize]| {
            let pairs = a.iter().flat_map(|i| b.iter().map(move |k| (*i, *k)));
            pairs.map(|(i, k)| self.apart(i, k)).fold(f64::MAX, f64::min)
        };
        loop {
            let mut best: Option<(f64, usize, usize)> = None;
            for a in 0..bins.len() {
                for b in a + 1..bins.len() {
                    if flow(&bins[a]) + flow(&bins[b]) > capacity {
                        continue;
                    }
                    let d = way(&bins[a], &bins[b]);
                    if best.is_none_or(|x| d < x.0 - 1e-9) {
                        best = Some((d, a, b));
                    }
                }
            }
            let Some((_, a, b)) = best else { return bins };
            let joined = bins.remove(b);
            bins[a].extend(joined);
        }
    }

    /// The largest first, each where it still fits.
    fn wherever(&self, small: &[usize], capacity: f64) -> Vec<Vec<usize>> {
        let mut order = small.to_vec();
        order.sort_by(|a, b| self.flows[*b].total_cmp(&self.flows[*a]));
        let mut bins: Vec<(f64, Vec<usize>)> = Vec::new();
        for area in order {
            let flow = self.flows[area];
            match bins.iter_mut().find(|b| b.0 + flow <= capacity) {
                Some(bin) => {
                    bin.0 += flow;
                    bin.1.push(area);
                }
                None => bins.push((flow, vec![area])),
            }
        }
        bins.into_iter().map(|b| b.1).collect()
    }

    /// How far from one to the other; without places as far as they stand apart in the list.
    fn apart(&self, a: usize, b: usize) -> f64 {
        match &self.apart {
            Some(apart) => apart[a * self.heads.len() + b],
            None => a.abs_diff(b) as f64,
        }
    }
}

fn count(bins: &[Bin]) -> usize {
    bins.iter().map(|b| b.valves).sum()
}

/// Cuts a row of heads into `n` runs so that the largest flow is as small as it can be: the
/// smallest capacity under which filling greedily takes `n` runs, by bisection.
fn even_parts(class: &Class<'_>, heads: &[usize], n: usize) -> Vec<Vec<usize>> {
    let flows: Vec<f64> = heads.iter().map(|i| class[*i].flow.lpm()).collect();
    let fill = |capacity: f64| {
        let (mut parts, mut start, mut sum) = (Vec::new(), 0, 0.0);
        for (i, q) in flows.iter().enumerate() {
            let left = flows.len() - i;
            let must_cut = left == n.saturating_sub(parts.len() + 1) && i > start;
            if i > start && (sum + q > capacity || must_cut) {
                parts.push(start..i);
                (start, sum) = (i, 0.0);
            }
            sum += q;
        }
        parts.push(start..flows.len());
        parts
    };
    let largest = flows.iter().copied().fold(0.0, f64::max);
    let (mut low, mut high) = (largest, flows.iter().sum::<f64>());
    for _ in 0..50 {
        let middle = (low + high) / 2.0;
        if fill(middle).len() > n { low = middle } else { high = middle }
    }
    let runs = fill(high * (1.0 + 1e-9));
    runs.into_iter().map(|run| heads[run].to_vec()).collect()
}
