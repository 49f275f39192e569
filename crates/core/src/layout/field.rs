use super::frame::Frame;
use crate::coverage::{DRIP_ONLY, Grid, Ground, Under, cell_for, clearance, ground};
use crate::site::{
    AreaKind, ObjectKind, Outline, Point, Shape, Site, SiteObject, cut, inside, widest, widest_to,
};

/// The ground about an area, in the area's frame.
pub(super) struct Field {
    pub frame: Frame,
    /// What of the area is to be watered: without what lies on top of it.
    pub pieces: Vec<Shape>,
    /// The same as straight pieces, ring by ring.
    flat: Vec<Vec<Vec<Point>>>,
    /// Cells of necks and tongues that only drip keeps to.
    narrow: Option<(Grid, Vec<bool>)>,
    /// The site near the area.
    site: Site,
    area: String,
}

/// Cells of the ground from which they need be no finer than a fourteenth of a throw; and most of them.
const FEW_CELLS: f64 = 6_000.0;
const MOST_CELLS: f64 = 50_000.0;

impl Field {
    /// The area and all that lies within `near` metres of it; none if nothing of it is left to water.
    pub fn of(site: &Site, area: &str, near: f64) -> Option<Self> {
        let own = site.objects.iter().position(|t| t.id == area)?;
        let shape = site.area(area)?.shape.clone();
        let frame = Frame::of(&shape);
        let (low, high) = site.objects[own].bounds()?;
        let margin = Point::new(near, near);
        let (low, high) = (low - margin, high + margin);
        let close = |t: &&SiteObject| {
            t.bounds().is_some_and(|(a, b)| a.x <= high.x && a.y <= high.y && b.x >= low.x && b.y >= low.y)
        };
        let ground_of = |t: &&SiteObject| matches!(t.what, ObjectKind::Area(_) | ObjectKind::Dry(_));
        let moved = |t: &SiteObject| frame.motions().iter().fold(t.clone(), |t, m| t.moved(*m));
        let things: Vec<SiteObject> =
            site.objects.iter().filter(ground_of).filter(close).map(moved).collect();
        let site = Site { objects: things, ..Site::default() };
        let own = site.objects.iter().position(|t| t.id == area)?;
        let shape = site.objects[own].shape()?.clone();
        // What was drawn later lies on top.
        let on_top: Vec<&Shape> = site.objects[own + 1..].iter().filter_map(SiteObject::shape).collect();
        let pieces = if on_top.is_empty() {
            vec![shape]
        } else {
            cut(&shape, &on_top).unwrap_or_else(|_| vec![shape])
        };
        let pieces: Vec<Shape> = pieces
            .into_iter()
            .map(|s| Shape { outline: ordered(s.outline), holes: s.holes.into_iter().map(ordered).collect() })
            .collect();
        let flat = pieces.iter().map(|s| s.rings().map(|r| r.flat(0.01)).collect()).collect();
        if pieces.is_empty() {
            return None;
        }
        let mut field = Self { frame, pieces, flat, site, area: area.to_owned(), narrow: None };
        field.narrow = field.narrow();
        Some(field)
    }

    /// Cells for throws of so many metres, with room round the area for all that is thrown off it.
    pub fn ground(&self, throw: f64) -> Option<Ground> {
        self.ground_to(throw, 1.0)
    }

    /// The same with cells so many times as long.
    pub fn ground_to(&self, throw: f64, cell: f64) -> Option<Ground> {
        self.cells(throw, self.fine(throw)? * cell)
    }

    /// Metres a cell is wide for throws of so many metres.
    fn fine(&self, throw: f64) -> Option<f64> {
        let shape = &self.site.area(&self.area)?.shape;
        // On large ground coarser cells do for choosing: what is chosen is measured on finer ones.
        let of = |cells: f64| (shape.area_m2() / cells).sqrt();
        let fine = cell_for(shape).min(throw / 10.0).max(of(FEW_CELLS).min(throw / 14.0));
        Some(fine.max(of(MOST_CELLS)))
    }

    /// Cells so many metres wide, with room round the area for throws.
    fn cells(&self, throw: f64, cell: f64) -> Option<Ground> {
        let mut ground = ground(&self.site, &self.area, cell, throw * 1.05)?;
        // Necks are neither laid out for nor counted: what falls on them is lost.
        if self.narrow.is_some() {
            for cell in 0..ground.under.len() {
                if ground.under[cell] == Under::Area && self.is_narrow(ground.grid.centre(cell)) {
                    ground.under[cell] = Under::Open;
                }
            }
        }
        Some(ground)
    }

    /// Parts under 2 ft wide: what a disc of that width can't get to (an opening, Serra 1982), but
    /// for the tips that it leaves in every corner.
    fn narrow(&self) -> Option<(Grid, Vec<bool>)> {
        let area = self.pieces.iter().map(Shape::area_m2).sum::<f64>();
        let cell = (DRIP_ONLY / 8.0).max((area / 60_000.0).sqrt());
        // Where cells are that coarse a neck is a trifle.
        if cell > DRIP_ONLY / 3.0 {
            return None;
        }
        let ground = ground(&self.site, &self.area, cell, cell)?;
        let inside = ground.inside();
        let clear = clearance(&ground.grid, &inside);
        let core: Vec<bool> = clear.iter().map(|c| f64::from(*c) + 0.6 * cell >= DRIP_ONLY / 2.0).collect();
        let outside: Vec<bool> = core.iter().map(|c| !c).collect();
        let from_core = clearance(&ground.grid, &outside);
        let far: Vec<bool> =
            (0..inside.len()).map(|i| inside[i] && f64::from(from_core[i]) > DRIP_ONLY * 0.9).collect();
        far.iter().any(|f| *f).then(|| {
            // The whole neck, not only its middle.
            let beyond: Vec<bool> = far.iter().map(|f| !f).collect();
            let from_far = clearance(&ground.grid, &beyond);
            let narrow = (0..inside.len())
                .map(|i| inside[i] && !core[i] && f64::from(from_far[i]) < DRIP_ONLY * 0.8)
                .collect();
            (ground.grid, narrow)
        })
    }

    fn is_narrow(&self, p: Point) -> bool {
        self.narrow.as_ref().is_some_and(|(grid, narrow)| grid.at(p).is_some_and(|c| narrow[c]))
    }

    pub fn kind(&self) -> AreaKind {
        self.site.area(&self.area).map_or(AreaKind::Lawn, |a| a.kind)
    }

    /// Metres across it at its widest, to a centimetre; where that decides about drip, to half a millimetre.
    pub fn width(&self) -> f64 {
        let width = widest_to(&self.pieces, 0.01).m();
        if (width - DRIP_ONLY).abs() < 0.02 {
            return widest(&self.pieces).m();
        }
        width
    }

    /// A point lies on ground to be watered.
    pub fn holds(&self, p: Point) -> bool {
        !self.is_narrow(p) && (0..self.flat.len()).any(|i| self.piece_holds(i, p))
    }

    /// A point lies on a piece.
    pub fn piece_holds(&self, piece: usize, p: Point) -> bool {
        inside(&self.flat[piece], p)
    }
}

/// The same ring whichever way and from whichever corner it was drawn.
fn ordered(ring: Outline) -> Outline {
    let mut ring = ring.wound();
    let key = |p: Point| ((p.x * 100.0).round(), (p.y * 100.0).round());
    let first = (0..ring.0.len())
        .min_by(|a, b| {
            key(ring.0[*a].at).partial_cmp(&key(ring.0[*b].at)).unwrap_or(std::cmp::Ordering::Equal)
        })
        .unwrap_or(0);
    ring.0.rotate_left(first);
    ring
}

/// What a litre on a cell costs against a litre on the area, when it lands where it should not.
pub(super) fn harm(under: Under) -> f64 {
    match under {
        Under::Area => 0.0,
        Under::Dry(_) => 3.0,
        Under::Other(_) => 0.35,
        Under::Open => 0.45,
    }
}
