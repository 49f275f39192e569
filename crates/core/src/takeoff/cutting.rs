//! Pieces cut from stock: as few sticks as hold them all, and as little coil.

use crate::units::Length;

/// Work of the search for a better packing: steps times the square of the pieces, which is what a step
/// costs. The best until then stands, with its bound.
const WORK: usize = 4_000_000;

/// Pieces in the sticks that they are cut from.
#[derive(Debug, Clone, PartialEq)]
pub struct Cuts {
    /// Of each stick the pieces, by their place in what was asked for.
    pub sticks: Vec<Vec<usize>>,
    /// No packing takes fewer.
    pub bound: usize,
}

impl Cuts {
    /// Nothing better is possible.
    pub fn is_best(&self) -> bool {
        self.sticks.len() == self.bound
    }
}

/// Lengths in tenths of a millimetre: exact for feet and inches.
fn tenths(length: Length) -> i64 {
    (length.m() * 10_000.0).round() as i64
}

/// Packs pieces into as few sticks as it can, without a joint in any piece. Pieces are at most as long as a
/// stick; longer ones take one for themselves. Cutters take no kerf. Deterministic.
///
/// # Source
/// First-fit decreasing, then branch and bound over fillings of one stick (Martello and Toth 1990, chapter
/// 8); the bound is their L2.
///
/// # Example
/// Legs of 8, 8, 7, 12, 12 and 9 ft from sticks of 20 ft: three.
///
/// ```
/// use fenlo_core::takeoff::cut_sticks;
/// use fenlo_core::units::Length;
/// let legs = [8.0, 8.0, 7.0, 12.0, 12.0, 9.0].map(Length::from_ft);
/// let cuts = cut_sticks(&legs, Length::from_ft(20.0));
/// assert_eq!((cuts.sticks.len(), cuts.bound), (3, 3));
/// ```
pub fn cut_sticks(pieces: &[Length], stick: Length) -> Cuts {
    let room = tenths(stick).max(1);
    let sizes: Vec<i64> = pieces.iter().map(|p| tenths(*p).clamp(0, room)).collect();
    let mut order: Vec<usize> = (0..sizes.len()).collect();
    order.sort_by_key(|i| (-sizes[*i], *i));
    let bound = l2(&sizes, room);
    let mut best = first_fit(&order, &sizes, room);
    if best.len() > bound {
        let mut search = Search {
            sizes: &sizes,
            room,
            bound,
            best: best.len(),
            steps: 0,
            most: (WORK / (sizes.len() * sizes.len()).max(1)).clamp(40, 200_000),
            found: None,
        };
        search.fill(&order, &mut Vec::new());
        if let Some(found) = search.found {
            best = found;
        }
    }
    Cuts { sticks: best, bound }
}

fn first_fit(order: &[usize], sizes: &[i64], room: i64) -> Vec<Vec<usize>> {
    let mut sticks: Vec<(i64, Vec<usize>)> = Vec::new();
    for &i in order {
        match sticks.iter_mut().find(|s| s.0 >= sizes[i]) {
            Some(stick) => {
                stick.0 -= sizes[i];
                stick.1.push(i);
            }
            None => sticks.push((room - sizes[i], vec![i])),
        }
    }
    sticks.into_iter().map(|s| s.1).collect()
}

/// Martello and Toth's L2: for each split size, large pieces take a stick each, middling ones fill theirs.
fn l2(sizes: &[i64], room: i64) -> usize {
    let total: i64 = sizes.iter().sum();
    let mut best = total.div_euclid(room) + i64::from(total % room > 0);
    let mut splits: Vec<i64> = sizes.iter().copied().filter(|s| *s <= room / 2).collect();
    splits.push(0);
    splits.sort_unstable();
    splits.dedup();
    for k in splits {
        let large = sizes.iter().filter(|s| **s > room - k).count() as i64;
        let middle: Vec<i64> = sizes.iter().copied().filter(|s| *s > room / 2 && *s <= room - k).collect();
        let small: i64 = sizes.iter().copied().filter(|s| *s >= k && *s <= room / 2).sum();
        let left = middle.len() as i64 * room - middle.iter().sum::<i64>();
        let over = (small - left).max(0);
        best = best.max(large + middle.len() as i64 + over.div_euclid(room) + i64::from(over % room > 0));
    }
    best as usize
}

struct Search<'a> {
    sizes: &'a [i64],
    room: i64,
    bound: usize,
    best: usize,
    steps: usize,
    most: usize,
    found: Option<Vec<Vec<usize>>>,
}

impl Search<'_> {
    /// Fills one stick after the other, each with its longest piece first; `left` is sorted, longest first.
    fn fill(&mut self, left: &[usize], done: &mut Vec<Vec<usize>>) {
        if self.steps > self.most || self.best == self.bound {
            return;
        }
        self.steps += 1;
        let Some((&first, rest)) = left.split_first() else {
            if done.len() < self.best {
                self.best = done.len();
                self.found = Some(done.clone());
            }
            return;
        };
        let lengths: Vec<i64> = left.iter().map(|i| self.sizes[*i]).collect();
        if done.len() + l2(&lengths, self.room) >= self.best {
            return;
        }
        let mut fillings = Vec::new();
        self.fillings(rest, self.room - self.sizes[first], &mut vec![first], &mut fillings);
        // The fullest first: what is left over is waste.
        fillings.sort_by_key(|f: &Vec<usize>| -f.iter().map(|i| self.sizes[*i]).sum::<i64>());
        for filling in fillings {
            let next: Vec<usize> = left.iter().copied().filter(|i| !filling.contains(i)).collect();
            done.push(filling);
            self.fill(&next, done);
            done.pop();
        }
    }

    /// Every way to go on with a stick that leaves no room for another piece; of equal pieces the first.
    fn fillings(&mut self, rest: &[usize], room: i64, so_far: &mut Vec<usize>, out: &mut Vec<Vec<usize>>) {
        if out.len() >= 64 || self.steps > self.most {
            return;
        }
        self.steps += 1;
        let mut any = false;
        let mut last = -1;
        for (i, &piece) in rest.iter().enumerate() {
            if self.sizes[piece] > room || self.sizes[piece] == last {
                continue;
            }
            last = self.sizes[piece];
            any = true;
            so_far.push(piece);
            self.fillings(&rest[i + 1..], room - last, so_far, out);
            so_far.pop();
        }
        if !any {
            out.push(so_far.clone());
        }
    }
}

/// Without prices coils are taken to cost as their length to this power.
const USUAL: f64 = 0.737;

/// Coils that are bought.
#[derive(Debug, Clone, PartialEq)]
pub struct Coils {
    /// How many of each size that is made, in its order.
    pub counts: Vec<usize>,
    /// Of each coil, in the order of sizes, the pieces cut from it.
    pub cut: Vec<Vec<usize>>,
    /// Pieces as they were cut: what is longer than the longest coil is cut to it and joined.
    pub pieces: Vec<Length>,
    /// Joints that need a coupling, since no coil is so long.
    pub joins: usize,
    /// What no choice of coils costs less than.
    pub bound: f64,
    /// What these cost, in the same measure.
    pub cost: f64,
}

/// Coils of several lengths that hold all pieces and `least` in all, at least cost. `prices` are of one coil
/// each; without them coils are taken to cost as they usually do, by the length to the power of 0.74 (a coil
/// twice as long costs two thirds more). Deterministic.
///
/// # Example
/// 640 ft where 500 ft cost 60 and 1,000 ft cost 100: one of 1,000 (100), not two of 500 (120).
///
/// ```
/// use fenlo_core::takeoff::cut_coils;
/// use fenlo_core::units::Length;
/// let rows = [Length::from_ft(20.0); 32];
/// let made = [500.0, 1000.0].map(Length::from_ft);
/// let coils = cut_coils(&rows, Length::from_ft(640.0), &made, Some(&[60.0, 100.0]));
/// assert_eq!(coils.counts, [0, 1]);
/// ```
pub fn cut_coils(pieces: &[Length], least: Length, made: &[Length], prices: Option<&[f64]>) -> Coils {
    let longest = made.iter().copied().fold(Length::ZERO, Length::max);
    let mut cut: Vec<Length> = Vec::new();
    let mut joins = 0;
    for &piece in pieces {
        let mut left = piece;
        while left.m() > longest.m() + 1e-6 {
            cut.push(longest);
            left = left - longest;
            joins += 1;
        }
        cut.push(left);
    }
    let total: f64 = cut.iter().map(|p| p.m()).sum::<f64>().max(least.m());
    let price = |i: usize| prices.map_or(made[i].m().powf(USUAL), |p| p[i]);
    let cost = |counts: &[usize]| -> f64 {
        let of = |i: usize| price(i);
        counts.iter().enumerate().map(|(i, n)| of(i) * *n as f64).sum()
    };
    let rate = |i: usize| price(i) / made[i].m();
    let sizes = 0..made.len();
    let cheapest = sizes.rev().min_by(|a, b| rate(*a).total_cmp(&rate(*b))).unwrap_or(0);
    let mut ways = combinations(total, made, cheapest);
    let key = |w: &Vec<usize>| (cost(w), w.iter().sum::<usize>());
    ways.sort_by(|a, b| key(a).partial_cmp(&key(b)).unwrap_or(std::cmp::Ordering::Equal));
    let bound = total * rate(cheapest);
    let mut order: Vec<usize> = (0..cut.len()).collect();
    order.sort_by_key(|i| (-tenths(cut[*i]), *i));
    for counts in &ways {
        if let Some(packed) = pack(&order, &cut, counts, made) {
            return Coils {
                cost: cost(counts),
                counts: counts.clone(),
                cut: packed,
                pieces: cut,
                joins,
                bound,
            };
        }
    }
    // Each piece from a coil of its own holds for certain.
    let mut counts = vec![0; made.len()];
    counts[made.len() - 1] = cut.len();
    Coils {
        cost: cost(&counts),
        cut: (0..cut.len()).map(|i| vec![i]).collect(),
        counts,
        pieces: cut,
        joins,
        bound,
    }
}

/// Counts of coils that hold a length, none of them with a coil too many; and some with one or two more,
/// since pieces leave offcuts. Long runs take coils of size `bulk`; what is left is chosen among all sizes.
fn combinations(total: f64, made: &[Length], bulk: usize) -> Vec<Vec<usize>> {
    let base = ((total / made[bulk].m()).floor() as usize).saturating_sub(2);
    let rest = total - base as f64 * made[bulk].m();
    let mut ways = Vec::new();
    let mut counts = vec![0; made.len()];
    choose(rest * (1.0 - 1e-9), made, 0, &mut counts, &mut ways);
    for way in ways.clone() {
        for more in 0..made.len() {
            let mut one = way.clone();
            one[more] += 1;
            for again in more..made.len() {
                let mut two = one.clone();
                two[again] += 1;
                ways.push(two);
            }
            ways.push(one);
        }
    }
    ways.sort();
    ways.dedup();
    for way in &mut ways {
        way[bulk] += base;
    }
    ways
}

fn choose(left: f64, made: &[Length], size: usize, counts: &mut Vec<usize>, ways: &mut Vec<Vec<usize>>) {
    let most = (left.max(0.0) / made[size].m()).ceil() as usize;
    if size + 1 == made.len() {
        counts[size] = most;
        ways.push(counts.clone());
        counts[size] = 0;
        return;
    }
    for n in 0..=most {
        counts[size] = n;
        choose(left - n as f64 * made[size].m(), made, size + 1, counts, ways);
    }
    counts[size] = 0;
}

/// Best fit, longest piece first; none: they do not fit so.
fn pack(order: &[usize], pieces: &[Length], counts: &[usize], made: &[Length]) -> Option<Vec<Vec<usize>>> {
    let sizes = counts.iter().enumerate();
    let mut coils: Vec<(i64, Vec<usize>)> =
        sizes.flat_map(|(i, n)| (0..*n).map(move |_| (tenths(made[i]), Vec::new()))).collect();
    for &i in order {
        let length = tenths(pieces[i]);
        let fits = coils.iter_mut().filter(|c| c.0 >= length);
        let coil = fits.min_by_key(|c| c.0 - length)?;
        coil.0 -= length;
        coil.1.push(i);
    }
    Some(coils.into_iter().map(|c| c.1).collect())
}
