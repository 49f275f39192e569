use crate::catalogue::Pipe;
use crate::site::Point;
use crate::units::Length;

/// The bore of a pipe, as friction sees it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Bore {
    /// Inside diameter.
    pub inside: Length,
    /// Hazen-Williams C.
    pub c: f64,
}

impl From<&Pipe> for Bore {
    fn from(pipe: &Pipe) -> Self {
        Self { inside: pipe.inside, c: pipe.c }
    }
}

/// A run of pipe.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct TubeRun {
    /// Its bore.
    pub bore: Bore,
    /// Its length.
    pub length: Length,
    /// Height that it climbs.
    pub rise: Length,
}

/// A point on the ground with its height.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Spot {
    /// Where.
    pub at: Point,
    /// How high.
    pub height: Length,
}
