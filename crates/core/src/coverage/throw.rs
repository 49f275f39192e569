use super::Grid;
use crate::catalogue::{Kind, Lies, Strip};
use crate::site::Point;
use crate::units::{Flow, Speed};

/// How the water of a head thins out along its throw. Typical of the class.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Profile {
    /// Falls in a straight line to nothing at the end of the throw: spray, rotator. Head to head it
    /// sums flat.
    Falling,
    /// Even to 60 % of the throw, then falling to nothing: rotors.
    Shouldered,
    /// The same all over: bubblers.
    Even,
    /// Even to 60 % of the way to its sides, then falling to half: square patterns, which stand side
    /// by side without overlap.
    Square,
}

impl Profile {
    /// The profile of a kind of head.
    pub fn of(kind: Kind) -> Self {
        match kind {
            Kind::RotorShort | Kind::RotorMid | Kind::RotorLarge | Kind::Stake => Self::Shouldered,
            Kind::Bubbler | Kind::Dripline | Kind::Emitter | Kind::Tape => Self::Even,
            Kind::Spray | Kind::Rotator | Kind::RotatorShort => Self::Falling,
        }
    }

    /// Water at a share of the throw, 0 to 1, as a share of that at the head.
    #[inline(always)]
    pub fn at(self, share: f64) -> f64 {
        match self {
            _ if share > 1.0 => 0.0,
            Self::Falling => 1.0 - share,
            Self::Shouldered => ((1.0 - share) / 0.4).min(1.0),
            Self::Even => 1.0,
            Self::Square => 1.0 - 0.5 * ((share - 0.6) / 0.4).max(0.0),
        }
    }
}

/// The outline of a throw.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Pattern {
    /// A sector of so many degrees; 360 is a full circle.
    Sector(f64),
    /// A rectangle, metres: from `back` behind the head to `reach` before it, `half` to each side.
    /// Water thins out along the longer way, so that neighbours sum flat.
    Strip {
        /// Behind the head.
        back: f64,
        /// Before it.
        reach: f64,
        /// To each side.
        half: f64,
    },
}

impl Pattern {
    /// What a strip wets, `k` times its full size.
    pub fn of(strip: &Strip, k: f64) -> Self {
        let (width, length) = (strip.width.m() * k, strip.length.m() * k);
        match strip.lies {
            Lies::Ahead => Self::Strip { back: 0.0, reach: length, half: width / 2.0 },
            Lies::Across => Self::Strip { back: 0.0, reach: width, half: length / 2.0 },
            Lies::Round => Self::Strip { back: width / 2.0, reach: width / 2.0, half: length / 2.0 },
        }
    }
    /// Corners of a strip, seen from its head with the arc's middle to the right; none for sectors.
    pub fn corners(self) -> Option<[(f64, f64); 4]> {
        match self {
            Self::Sector(_) => None,
            Self::Strip { back, reach, half } => {
                Some([(-back, -half), (reach, -half), (reach, half), (-back, half)])
            }
        }
    }
}

/// One head as it throws.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Throw {
    /// Where it stands.
    pub at: Point,
    /// Middle of its arc: degrees counter-clockwise from the right.
    pub facing: f64,
    /// Metres it throws at its pressure.
    pub reach: f64,
    /// Its outline.
    pub pattern: Pattern,
    /// How it thins out.
    pub profile: Profile,
    /// How far it is from its usable band below, 0 to 1: water moves from the middle outwards (the
    /// doughnut of a starved head).
    pub hollow: f64,
    /// How much of it goes up as fog, 0 to 0.25: its edge gets weaker by up to half.
    pub fog: f64,
    /// How its water differs by direction: shares of waves that go three and five times round it, each
    /// as (cosine, sine). Zero for a perfect head.
    pub streaks: [f32; 4],
    /// What it gives.
    pub flow: Flow,
}

/// Wind as it carries drops: to leeward by so much of the distance they fly.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Drift {
    /// Share of the distance.
    share: f64,
    toward: Point,
}

/// Cells along a throw from which one point of each is enough.
const FINE: f64 = 9.0;

/// How soft the edge of an arc is, metres: a stream is about as wide as a hand, and wets a strip of
/// ground beyond the line it is set to. Without it the 2 to 4 in behind a head would stay dry.
const STREAM: f64 = 0.075;

/// Where an arc lies.
struct Sector {
    /// Inward normals of its two edges.
    normals: [Point; 2],
    wide: bool,
}

impl Sector {
    fn of(facing: f64, arc: f64) -> Self {
        let edge = |degrees: f64| Point::default().toward(degrees, 1.0);
        Self {
            normals: [edge(facing - arc / 2.0 + 90.0), edge(facing + arc / 2.0 - 90.0)],
            wide: arc > 180.0,
        }
    }
    fn holds(&self, d: Point) -> bool {
        let within = |n: Point| d.dot(n) >= -STREAM;
        if self.wide {
            within(self.normals[0]) || within(self.normals[1])
        } else {
            within(self.normals[0]) && within(self.normals[1])
        }
    }
}

/// Share of the flown distance that drops drift for each m/s of wind: about 1.2 % a mile an hour.
/// A planning figure of this program; drop size and height of throw matter as much.
const DRIFT_FOR_MPS: f64 = 0.027;

impl Drift {
    /// Wind of a speed towards a direction (degrees counter-clockwise from the right of the sheet).
    /// Above 13 m/s (30 mph) nobody waters: it counts as that.
    pub fn new(speed: Speed, toward: f64) -> Option<Self> {
        let share = (speed.mps() * DRIFT_FOR_MPS).min(0.36);
        (share > 1e-6).then(|| Self { share, toward: Point::default().toward(toward, 1.0) })
    }

    /// Where a drop that landed at an offset would have landed in still air, and by how much the
    /// ground it falls on is stretched there.
    fn still(self, landed: Point) -> (Point, f64) {
        let a = self.share;
        let along = landed.dot(self.toward);
        // |x| of x + a |x| w = landed: the positive root.
        let far = ((a * along).powi(2) + (1.0 - a * a) * landed.dot(landed)).sqrt() - a * along;
        let far = far / (1.0 - a * a);
        let x = landed - self.toward * (a * far);
        // A drop flies as far in still air as here: `far` is the length of x.
        let stretch = if far > 1e-9 { 1.0 + a * x.dot(self.toward) / far } else { 1.0 };
        (x, stretch)
    }
}

impl Throw {
    /// Cells it reaches with their share of its water, replacing what `out` held; shares sum to 1
    /// if all of its throw lies on the grid.
    pub fn shares(&self, grid: &Grid, drift: Option<Drift>, out: &mut Vec<(u32, f32)>) {
        // Still air is most of the work: its loop has no wind in it, and that of plain heads no choices.
        let still = |landed| (landed, 1.0);
        let total = match (drift, self.pattern) {
            (None, Pattern::Sector(arc)) if self.is_plain() && self.reach >= FINE * grid.cell => {
                let sector = (arc < 360.0).then(|| Sector::of(self.facing, arc));
                let hollow = self.hollow;
                let thin = |share: f64| 1.0 - hollow + 2.0 * hollow * share;
                match self.profile {
                    Profile::Falling => self.rows(grid, sector, |s| (1.0 - s) * thin(s), out),
                    Profile::Shouldered => {
                        self.rows(grid, sector, |s| ((1.0 - s) / 0.4).min(1.0) * thin(s), out)
                    }
                    other => self.rows(grid, sector, |s| other.at(s) * thin(s), out),
                }
            }
            (None, _) => self.gather(grid, self.furthest(), still, out),
            (Some(wind), _) => {
                let furthest = self.furthest() * (1.0 + wind.share);
                self.gather(grid, furthest, |landed| wind.still(landed), out)
            }
        };
        if total > 0.0 {
            let k = (1.0 / total) as f32;
            out.iter_mut().for_each(|s| s.1 *= k);
        } else if let Some(cell) = grid.at(self.at) {
            // A throw smaller than a cell.
            out.push((cell as u32, 1.0));
        }
    }

    /// A perfect head: without fog and streaks.
    fn is_plain(&self) -> bool {
        self.fog == 0.0 && self.streaks == [0.0; 4]
    }

    /// [`Self::gather`] for a plain head over a sector that spans many cells, in still air: row by row.
    fn rows(
        &self,
        grid: &Grid,
        sector: Option<Sector>,
        water: impl Fn(f64) -> f64,
        out: &mut Vec<(u32, f32)>,
    ) -> f64 {
        out.clear();
        let (square, inverse) = (self.reach * self.reach, 1.0 / self.reach);
        let mut total = 0.0;
        for row in grid.rows_between(self.at.y - self.reach, self.at.y + self.reach) {
            let y = grid.origin.y + (row as f64 + 0.5) * grid.cell - self.at.y;
            let left = square - y * y;
            if left < 0.0 {
                continue;
            }
            let half = left.sqrt();
            let first = (row * grid.cols) as u32;
            for col in grid.cols_between(self.at.x - half, self.at.x + half) {
                let x = grid.origin.x + (col as f64 + 0.5) * grid.cell - self.at.x;
                let far = x * x + y * y;
                if far > square || sector.as_ref().is_some_and(|s| !s.holds(Point::new(x, y))) {
                    continue;
                }
                let water = water(far.sqrt() * inverse);
                if water > 0.0 {
                    total += water;
                    out.push((first + col as u32, water as f32));
                }
            }
        }
        total
    }

    /// Water on every cell within `furthest`, and its sum; `still` says where a drop that landed at an
    /// offset would have landed in still air, and how far the ground is stretched there.
    fn gather(
        &self,
        grid: &Grid,
        furthest: f64,
        still: impl Fn(Point) -> (Point, f64),
        out: &mut Vec<(u32, f32)>,
    ) -> f64 {
        out.clear();
        // Small throws fall on few cells: look at several points of each.
        let fine = match furthest / grid.cell {
            n if n < 5.0 => 3,
            n if n < FINE => 2,
            _ => 1,
        };
        let (sin, cos) = self.facing.to_radians().sin_cos();
        let ahead = Point::new(cos, sin);
        let sector = match self.pattern {
            Pattern::Sector(arc) if arc < 360.0 => Some(Sector::of(self.facing, arc)),
            _ => None,
        };
        let plain = self.is_plain();
        let step = 1.0 / f64::from(fine);
        let mut total = 0.0;
        let rows = grid.rows_between(self.at.y - furthest - grid.cell, self.at.y + furthest + grid.cell);
        for row in rows {
            // Only as far across as the throw is at this height: the corners of its box stay out.
            let dy =
                ((grid.origin.y + (row as f64 + 0.5) * grid.cell - self.at.y).abs() - grid.cell).max(0.0);
            let half = (furthest * furthest - dy * dy).max(0.0).sqrt() + grid.cell;
            for col in grid.cols_between(self.at.x - half, self.at.x + half) {
                let mut water = 0.0;
                for i in 0..fine {
                    for j in 0..fine {
                        let cell = Point::new(
                            col as f64 + (f64::from(i) + 0.5) * step,
                            row as f64 + (f64::from(j) + 0.5) * step,
                        );
                        let (d, stretch) = still(grid.origin + cell * grid.cell - self.at);
                        water += self.density(d, ahead, sector.as_ref(), plain) / stretch;
                    }
                }
                if water > 0.0 {
                    total += water;
                    out.push(((row * grid.cols + col) as u32, water as f32));
                }
            }
        }
        total
    }

    /// Metres to the end of its throw.
    pub fn furthest(&self) -> f64 {
        match self.pattern {
            Pattern::Sector(_) => self.reach,
            Pattern::Strip { back, reach, half } => Point::new(back.max(reach), half).norm(),
        }
    }

    /// 1 + a cos 3φ + b sin 3φ + c cos 5φ + d sin 5φ at an offset so far away, by powers of (x + iy) / r;
    /// never below a tenth.
    fn streak(&self, d: Point, far: f64) -> f64 {
        if far < 1e-4 {
            return 1.0;
        }
        let inverse = 1.0 / far;
        let (x, y) = (d.x * inverse, d.y * inverse);
        let (x2, y2) = (x * x - y * y, 2.0 * x * y);
        let (x3, y3) = (x2 * x - y2 * y, x2 * y + y2 * x);
        let (x5, y5) = (x3 * x2 - y3 * y2, x3 * y2 + y3 * x2);
        let [a, b, c, e] = self.streaks.map(f64::from);
        (1.0 + a * x3 + b * y3 + c * x5 + e * y5).max(0.1)
    }

    /// Water at an offset; `plain` for a head without fog and streaks.
    #[inline(always)]
    fn density(&self, d: Point, ahead: Point, sector: Option<&Sector>, plain: bool) -> f64 {
        let share = match self.pattern {
            Pattern::Sector(_) => {
                let far = d.dot(d);
                if far > self.reach * self.reach || sector.is_some_and(|s| !s.holds(d)) {
                    return 0.0;
                }
                far.sqrt() / self.reach
            }
            Pattern::Strip { back, reach, half } => {
                let (x, y) = (d.dot(ahead), d.dot(ahead.left()));
                if x > reach || x < -back || y.abs() > half {
                    return 0.0;
                }
                if self.profile == Profile::Square {
                    x.abs().max(y.abs()) / reach.max(half)
                } else if reach > half {
                    x.abs() / if x < 0.0 { back } else { reach }
                } else {
                    y.abs() / half
                }
            }
        };
        let thin = self.profile.at(share) * (1.0 - self.hollow + 2.0 * self.hollow * share);
        if plain {
            return thin;
        }
        let far = match self.pattern {
            Pattern::Sector(_) => share * self.reach,
            Pattern::Strip { .. } => d.dot(d).sqrt(),
        };
        thin * (1.0 - 2.0 * self.fog * share * share) * self.streak(d, far)
    }
}
