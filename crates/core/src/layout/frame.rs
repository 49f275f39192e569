use crate::site::{Motion, Point, Shape};

/// The area turned so that its longest straight edge lies along the sheet and its bulk to the right
/// and up: ground that is turned or mirrored comes to lie the same.
#[derive(Debug, Clone)]
pub(super) struct Frame {
    motions: Vec<Motion>,
}

impl Frame {
    pub fn of(shape: &Shape) -> Self {
        let longest =
            shape.outline.edges().filter(|e| e.bulge == 0.0).fold((0.0, 0.0), |(length, direction), e| {
                // Of edges as long as one another the first: which it is does not matter after flipping.
                if e.length() > length + 0.01 {
                    (e.length(), e.from.direction_to(e.to))
                } else {
                    (length, direction)
                }
            });
        let corner = |s: &Shape| {
            let points = s.outline.flat(0.02);
            let (low, high) = bounds(&points);
            (low.middle(high), centroid(&points))
        };
        let middle = corner(shape).0;
        let mut motions = vec![
            Motion::Shift { by: Point::default() - middle },
            Motion::Turn { about: Point::default(), degrees: -longest.1 },
        ];
        let turned = |motions: &[Motion]| motions.iter().fold(shape.clone(), |s, m| s.moved(*m));
        let (box_middle, bulk) = corner(&turned(&motions));
        motions.push(Motion::Shift { by: Point::default() - box_middle });
        let lean = bulk - box_middle;
        let scale = 1e-3 * shape.area_m2().sqrt();
        if lean.x < -scale {
            motions.push(Motion::Mirror { from: Point::default(), to: Point::new(0.0, 1.0) });
        }
        if lean.y < -scale {
            motions.push(Motion::Mirror { from: Point::default(), to: Point::new(1.0, 0.0) });
        }
        Self { motions }
    }

    /// Into the frame.
    pub fn motions(&self) -> &[Motion] {
        &self.motions
    }

    /// A point of the frame on the sheet.
    pub fn back(&self, p: Point) -> Point {
        self.motions.iter().rev().fold(p, |p, m| inverse(*m).of(p))
    }

    /// A direction of the frame on the sheet.
    pub fn back_direction(&self, degrees: f64) -> f64 {
        self.motions.iter().rev().fold(degrees, |d, m| inverse(*m).of_direction(d))
    }
}

fn inverse(motion: Motion) -> Motion {
    match motion {
        Motion::Shift { by } => Motion::Shift { by: by * -1.0 },
        Motion::Turn { about, degrees } => Motion::Turn { about, degrees: -degrees },
        mirror @ Motion::Mirror { .. } => mirror,
    }
}

pub(super) fn bounds(points: &[Point]) -> (Point, Point) {
    points.iter().fold((Point::new(f64::MAX, f64::MAX), Point::new(f64::MIN, f64::MIN)), |(l, h), p| {
        (Point::new(l.x.min(p.x), l.y.min(p.y)), Point::new(h.x.max(p.x), h.y.max(p.y)))
    })
}

fn centroid(points: &[Point]) -> Point {
    let o = points.first().copied().unwrap_or_default();
    let (mut area, mut sum) = (0.0, Point::default());
    for (a, b) in points.iter().zip(points.iter().cycle().skip(1)) {
        let cross = (*a - o).cross(*b - o);
        area += cross;
        sum = sum + ((*a - o) + (*b - o)) * cross;
    }
    if area.abs() < 1e-12 { o } else { o + sum * (1.0 / (3.0 * area)) }
}
