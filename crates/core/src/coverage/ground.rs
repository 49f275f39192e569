use super::Grid;
use crate::site::{DryKind, Form, KeepDry, ObjectKind, Point, Shape, Site};

/// What lies under a cell.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Under {
    /// Ground that nothing is said of.
    Open,
    /// The area looked at.
    Area,
    /// Something kept dry: its place in the site's things.
    Dry(u16),
    /// Another area: its place in the site's things.
    Other(u16),
}

/// A grid with what lies under its cells.
#[derive(Debug, Clone, PartialEq)]
pub struct Ground {
    /// The cells.
    pub grid: Grid,
    /// What lies under each.
    pub under: Vec<Under>,
}

impl Ground {
    /// Which cells are the area's.
    pub fn inside(&self) -> Vec<bool> {
        self.under.iter().map(|u| *u == Under::Area).collect()
    }
}

/// Most cells of an area: finer is not seen and costs time.
const MOST_CELLS: f64 = 120_000.0;
const FOOT: f64 = 0.3048;

/// Side of a cell for an area, metres: 1 ft, finer where the ground is small or narrow, coarser
/// beyond 120,000 cells.
pub fn cell_for(shape: &Shape) -> f64 {
    let area = shape.area_m2().max(0.01);
    // Twice the area over the edge is the width of a long strip, half of that of a square.
    let width = 2.0 * area / shape.perimeter().max(0.1);
    (width / 12.0).clamp(FOOT / 4.0, FOOT).max((area / MOST_CELLS).sqrt())
}

/// Cells of side `cell` over an area and `beyond` metres round it, with what lies under them. What
/// was drawn later lies on top; what is kept dry and lies on the area is not watered.
pub fn ground(site: &Site, area: &str, cell: f64, beyond: f64) -> Option<Ground> {
    let own = site.objects.iter().position(|t| t.id == area)?;
    let (low, high) = site.objects[own].bounds()?;
    let margin = Point::new(beyond, beyond);
    let grid = Grid::over(low - margin, high + margin, cell);
    let mut under = vec![Under::Open; grid.len()];
    let end = grid.origin + Point::new(grid.cols as f64, grid.rows as f64) * cell;
    for (place, thing) in site.objects.iter().enumerate() {
        let Some((a, b)) = thing.bounds() else { continue };
        if a.x > end.x || a.y > end.y || b.x < grid.origin.x || b.y < grid.origin.y {
            continue;
        }
        let what = match &thing.what {
            ObjectKind::Dry(d) if d.kind == DryKind::NoDig => continue,
            ObjectKind::Area(_) if place == own => Under::Area,
            ObjectKind::Area(_) => Under::Other(place as u16),
            ObjectKind::Dry(_) => Under::Dry(place as u16),
            _ => continue,
        };
        match (&thing.what, thing.shape()) {
            (_, Some(shape)) => {
                let rings: Vec<Vec<Point>> = shape.rings().map(|r| r.flat(cell / 8.0)).collect();
                grid.fill(&rings, |run| under[run].fill(what));
            }
            // A wall is as wide as a cell; ground to be watered right up to it stays watered.
            (ObjectKind::Dry(KeepDry { form: Form::Line(line), .. }), None) => {
                let points = line.flat(cell / 8.0);
                for pair in points.windows(2) {
                    let steps = (pair[0].distance(pair[1]) / cell * 2.0).ceil().max(1.0) as usize;
                    for s in 0..=steps.min(100_000) {
                        let at = pair[0] + (pair[1] - pair[0]) * (s as f64 / steps as f64);
                        if let Some(cell) = grid.at(at).filter(|c| under[*c] == Under::Open) {
                            under[cell] = what;
                        }
                    }
                }
            }
            _ => {}
        }
    }
    Some(Ground { grid, under })
}
