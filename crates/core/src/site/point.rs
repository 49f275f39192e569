use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// A point of the ground: metres to the right of the sheet's origin and up from it. In files `[x, y]`.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, Deserialize, JsonSchema)]
#[serde(from = "[f64; 2]", into = "[f64; 2]")]
#[schemars(with = "[f64; 2]")]
pub struct Point {
    /// Metres to the right.
    pub x: f64,
    /// Metres up the sheet.
    pub y: f64,
}

impl From<[f64; 2]> for Point {
    fn from([x, y]: [f64; 2]) -> Self {
        Self { x, y }
    }
}
impl From<Point> for [f64; 2] {
    fn from(p: Point) -> Self {
        [p.x, p.y]
    }
}
impl std::ops::Add for Point {
    type Output = Self;
    fn add(self, o: Self) -> Self {
        Self::new(self.x + o.x, self.y + o.y)
    }
}
impl std::ops::Sub for Point {
    type Output = Self;
    fn sub(self, o: Self) -> Self {
        Self::new(self.x - o.x, self.y - o.y)
    }
}
impl std::ops::Mul<f64> for Point {
    type Output = Self;
    fn mul(self, k: f64) -> Self {
        Self::new(self.x * k, self.y * k)
    }
}

impl Point {
    /// A point from metres.
    pub const fn new(x: f64, y: f64) -> Self {
        Self { x, y }
    }
    /// Metres to another point.
    pub fn distance(self, other: Self) -> f64 {
        (other - self).norm()
    }
    /// Metres from the origin.
    pub fn norm(self) -> f64 {
        self.dot(self).sqrt()
    }
    /// Twice the area of the triangle with the origin: positive if `other` lies to the left.
    pub fn cross(self, other: Self) -> f64 {
        self.x * other.y - self.y * other.x
    }
    /// Scalar product.
    pub fn dot(self, other: Self) -> f64 {
        self.x * other.x + self.y * other.y
    }
    /// A quarter turn to the left.
    pub fn left(self) -> Self {
        Self::new(-self.y, self.x)
    }
    /// The same direction, one metre long; none for the origin itself.
    pub fn unit(self) -> Option<Self> {
        let n = self.norm();
        (n > 0.0 && n.is_finite()).then(|| self * (1.0 / n))
    }
    /// The point `metres` away in a direction of so many degrees counter-clockwise from the right.
    pub fn toward(self, degrees: f64, metres: f64) -> Self {
        let (sin, cos) = degrees.to_radians().sin_cos();
        self + Self::new(cos, sin) * metres
    }
    /// Degrees counter-clockwise from the right to another point, 0 up to 360.
    pub fn direction_to(self, other: Self) -> f64 {
        let d = other - self;
        d.y.atan2(d.x).to_degrees().rem_euclid(360.0)
    }
    /// Halfway to another.
    pub fn middle(self, other: Self) -> Self {
        (self + other) * 0.5
    }
    /// On the job's plane and a number.
    pub fn is_sound(self) -> bool {
        self.x.abs() <= super::FURTHEST && self.y.abs() <= super::FURTHEST
    }
}

/// What can be done to anything on the board without changing its size.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Motion {
    /// By so many metres.
    Shift {
        /// Right and up.
        by: Point,
    },
    /// Degrees counter-clockwise about a point.
    Turn {
        /// Stays where it is.
        about: Point,
        /// Counter-clockwise.
        degrees: f64,
    },
    /// To the other side of the line through two points.
    Mirror {
        /// On the line.
        from: Point,
        /// On the line, elsewhere.
        to: Point,
    },
}

impl Motion {
    /// Where a point comes to.
    pub fn of(self, p: Point) -> Point {
        match self {
            Self::Shift { by } => p + by,
            Self::Turn { about, degrees } => {
                let (sin, cos) = degrees.to_radians().sin_cos();
                let d = p - about;
                about + Point::new(d.x * cos - d.y * sin, d.x * sin + d.y * cos)
            }
            Self::Mirror { from, to } => match (to - from).unit() {
                Some(along) => {
                    let d = p - from;
                    from + along * (2.0 * along.dot(d)) - d
                }
                None => p,
            },
        }
    }
    /// Where a direction (degrees counter-clockwise from the right) comes to, 0 up to 360.
    pub fn of_direction(self, degrees: f64) -> f64 {
        let origin = self.of(Point::default());
        origin.direction_to(self.of(Point::default().toward(degrees, 1.0)))
    }
    /// Left and right change places.
    pub fn flips(self) -> bool {
        matches!(self, Self::Mirror { .. })
    }
    /// Every figure is a number, and a mirror has a line.
    pub fn is_sound(self) -> bool {
        match self {
            Self::Shift { by } => by.is_sound(),
            Self::Turn { about, degrees } => about.is_sound() && degrees.is_finite(),
            Self::Mirror { from, to } => from.is_sound() && to.is_sound() && from.distance(to) > super::SAME,
        }
    }
}
