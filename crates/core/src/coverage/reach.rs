//! What heads can't reach, and why.

use super::{Coverage, Grid};
use crate::site::Point;
use crate::units::{Length, Surface};

/// A part of an area that gets (next to) nothing.
#[derive(Debug, Clone, PartialEq)]
pub struct Unreached {
    /// A point in it.
    pub at: Point,
    /// How large it is.
    pub area: Surface,
    /// Width of the ground there.
    pub width: Length,
}

/// Ground narrower than this is for drip alone, metres: 2 ft.
pub(crate) const DRIP_ONLY: f64 = 0.6096;

/// A hand's breadth in a corner is no dry spot, m2.
pub(crate) const CRUMB: f64 = 0.2;

/// What would bring water to a part that gets none.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum ReachAdvice {
    /// Under 2 ft wide: only drip keeps to it.
    DripOnly,
    /// Under 5 ft wide: a strip pattern or drip.
    StripOrDrip,
    /// A head there, or one that throws farther.
    MoreHeads,
}

impl Unreached {
    /// What would help.
    pub fn advice(&self) -> ReachAdvice {
        if self.width.m() < DRIP_ONLY {
            ReachAdvice::DripOnly
        } else if self.width.m() < 5.0 * 0.3048 {
            ReachAdvice::StripOrDrip
        } else {
            ReachAdvice::MoreHeads
        }
    }
}

/// Parts that get less than a tenth of the mean, the largest first; crumbs left out.
pub fn unreached(coverage: &Coverage) -> Vec<Unreached> {
    let grid = &coverage.grid;
    let inside = coverage.inside();
    let least = coverage.uniformity.map_or(f64::MAX, |u| u.mean * 0.1);
    let mut open: Vec<bool> =
        inside.iter().zip(&coverage.rate).map(|(i, r)| *i && f64::from(*r) < least).collect();
    let mut clear: Option<Vec<f32>> = None;
    let mut out = Vec::new();
    for start in 0..open.len() {
        if !open[start] {
            continue;
        }
        let mut part = vec![start];
        open[start] = false;
        let mut next = 0;
        while next < part.len() {
            for n in neighbours(grid, part[next]) {
                if std::mem::take(&mut open[n]) {
                    part.push(n);
                }
            }
            next += 1;
        }
        let m2 = part.len() as f64 * grid.cell_m2();
        if m2 < CRUMB {
            continue;
        }
        let clear = clear.get_or_insert_with(|| clearance(grid, &inside));
        let Some(&widest) = part.iter().max_by(|a, b| clear[**a].total_cmp(&clear[**b])) else {
            continue;
        };
        out.push(Unreached {
            at: grid.centre(widest),
            area: Surface::from_m2(m2),
            width: Length::from_m(2.0 * f64::from(clear[widest])),
        });
    }
    out.sort_by(|a, b| b.area.m2().total_cmp(&a.area.m2()));
    out
}

fn neighbours(grid: &Grid, cell: usize) -> impl Iterator<Item = usize> + use<> {
    let (row, col, cols, rows) = (cell / grid.cols, cell % grid.cols, grid.cols, grid.rows);
    let left = (col > 0).then(|| cell - 1);
    let right = (col + 1 < cols).then(|| cell + 1);
    let below = (row > 0).then(|| cell - cols);
    let above = (row + 1 < rows).then(|| cell + cols);
    [left, right, below, above].into_iter().flatten()
}

/// Metres from every cell to the nearest one that is not inside (two passes of a chamfer distance,
/// Borgefors 1986; within 8 % of the true one).
pub(crate) fn clearance(grid: &Grid, inside: &[bool]) -> Vec<f32> {
    let (cols, rows) = (grid.cols as isize, grid.rows as isize);
    let far = f32::MAX / 4.0;
    let mut d: Vec<f32> = inside.iter().map(|i| if *i { far } else { 0.0 }).collect();
    let diagonal = std::f32::consts::SQRT_2;
    let pass = |d: &mut Vec<f32>, row: isize, col: isize, steps: [(isize, isize, f32); 4]| {
        let here = (row * cols + col) as usize;
        for (dr, dc, cost) in steps {
            let (r, c) = (row + dr, col + dc);
            let there =
                if r < 0 || c < 0 || r >= rows || c >= cols { 0.0 } else { d[(r * cols + c) as usize] };
            d[here] = d[here].min(there + cost);
        }
    };
    for row in 0..rows {
        for col in 0..cols {
            pass(&mut d, row, col, [(0, -1, 1.0), (-1, 0, 1.0), (-1, -1, diagonal), (-1, 1, diagonal)]);
        }
    }
    for row in (0..rows).rev() {
        for col in (0..cols).rev() {
            pass(&mut d, row, col, [(0, 1, 1.0), (1, 0, 1.0), (1, 1, diagonal), (1, -1, diagonal)]);
        }
    }
    // From the middle of the last cell to its edge.
    d.iter().map(|d| (d - 0.5).max(0.0) * grid.cell as f32).collect()
}
