//! A head while it is being tried, and as it is proposed.

use crate::catalogue::{Catalogue, Nozzle};
use crate::coverage::Throw;
use crate::plan::DrawnHead;
use crate::site::Point;
use crate::units::{Flow, Length};

/// A head of a proposal, on the sheet.
#[derive(Debug, Clone, PartialEq)]
pub struct Proposed {
    /// Nozzle of the catalogue.
    pub nozzle: String,
    /// Where.
    pub at: Point,
    /// Middle of its arc, degrees counter-clockwise from the right.
    pub facing: f64,
    /// Degrees watered.
    pub arc: u16,
    /// Throw it is turned down to.
    pub radius: Option<Length>,
}

/// A head that is being tried.
#[derive(Debug, Clone)]
pub(super) struct Trial<'a> {
    pub at: Point,
    pub facing: f64,
    pub arc: u16,
    pub nozzle: &'a Nozzle,
    pub radius: Option<Length>,
    /// Neither moved nor turned: locked, or a pattern that fits as it is.
    pub fixed: bool,
}

impl Trial<'_> {
    pub fn throw_length(&self) -> f64 {
        self.radius.or(self.nozzle.radius).map_or(0.0, Length::m)
    }
    pub fn flow(&self) -> Flow {
        self.nozzle.flow_set(self.arc, self.radius)
    }
    pub fn throw(&self, catalogue: &Catalogue) -> Throw {
        let kind = catalogue.class(self.nozzle.kind);
        let head = DrawnHead {
            id: String::new(),
            at: self.at,
            arc: self.arc,
            facing: self.facing,
            radius: self.radius,
            valve: None,
            locked: false,
        };
        Throw::of(self.nozzle, kind, &head, kind.nominal, self.flow())
    }
    pub fn proposed(&self) -> Proposed {
        Proposed {
            nozzle: self.nozzle.id.clone(),
            at: self.at,
            facing: self.facing,
            arc: self.arc,
            radius: self.radius,
        }
    }
}
