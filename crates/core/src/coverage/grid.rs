use crate::site::Point;
use std::ops::Range;

/// Square cells over a piece of ground, in rows from the bottom up.
#[derive(Debug, Clone, PartialEq)]
pub struct Grid {
    /// Lower left corner.
    pub origin: Point,
    /// Side of a cell, metres.
    pub cell: f64,
    /// Cells across.
    pub cols: usize,
    /// Rows of cells.
    pub rows: usize,
}

impl Grid {
    /// Cells over a box, the last ones reaching over it.
    pub fn over(low: Point, high: Point, cell: f64) -> Self {
        let count = |run: f64| (run / cell).ceil().max(1.0) as usize;
        Self { origin: low, cell, cols: count(high.x - low.x), rows: count(high.y - low.y) }
    }

    /// How many cells.
    pub fn len(&self) -> usize {
        self.cols * self.rows
    }

    /// True if it has none.
    pub fn is_empty(&self) -> bool {
        self.len() == 0
    }

    /// Middle of a cell.
    pub fn centre(&self, cell: usize) -> Point {
        let (row, col) = (cell / self.cols, cell % self.cols);
        self.origin + Point::new(col as f64 + 0.5, row as f64 + 0.5) * self.cell
    }

    /// m2 of a cell.
    pub fn cell_m2(&self) -> f64 {
        self.cell * self.cell
    }

    /// The cell that holds a point.
    pub fn at(&self, p: Point) -> Option<usize> {
        let d = (p - self.origin) * (1.0 / self.cell);
        let inside = d.x >= 0.0 && d.y >= 0.0 && d.x < self.cols as f64 && d.y < self.rows as f64;
        inside.then(|| d.y as usize * self.cols + d.x as usize)
    }

    /// Columns whose middles lie between two abscissas.
    pub(super) fn cols_between(&self, from: f64, to: f64) -> Range<usize> {
        let place =
            |x: f64| ((x - self.origin.x) / self.cell - 0.5).ceil().clamp(0.0, self.cols as f64) as usize;
        let (from, to) = (place(from), place(to));
        from..to.max(from)
    }

    /// Rows whose middles lie between two ordinates.
    pub(super) fn rows_between(&self, from: f64, to: f64) -> Range<usize> {
        let place =
            |y: f64| ((y - self.origin.y) / self.cell - 0.5).ceil().clamp(0.0, self.rows as f64) as usize;
        let (from, to) = (place(from), place(to));
        from..to.max(from)
    }

    /// Calls `run` with every run of cells whose middles lie inside rings (even-odd).
    pub fn fill(&self, rings: &[Vec<Point>], mut run: impl FnMut(Range<usize>)) {
        let (low, high) =
            rings.iter().flatten().fold((f64::MAX, f64::MIN), |(l, h), p| (l.min(p.y), h.max(p.y)));
        let mut cuts: Vec<f64> = Vec::new();
        for row in self.rows_between(low, high) {
            let y = self.origin.y + (row as f64 + 0.5) * self.cell;
            cuts.clear();
            for ring in rings {
                for (a, b) in ring.iter().zip(ring.iter().cycle().skip(1)) {
                    if (a.y > y) != (b.y > y) {
                        cuts.push(a.x + (b.x - a.x) * (y - a.y) / (b.y - a.y));
                    }
                }
            }
            cuts.sort_by(f64::total_cmp);
            for pair in cuts.chunks_exact(2) {
                let cols = self.cols_between(pair[0], pair[1]);
                run(row * self.cols + cols.start..row * self.cols + cols.end);
            }
        }
    }
}
