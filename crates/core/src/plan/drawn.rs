use super::{HeadGroup, Plan, Valve};
use crate::site::{PlaceKind, Point, height_at};
use crate::units::Length;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// A head with its place on the board.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct DrawnHead {
    /// Stable name in the file.
    pub id: String,
    /// Where.
    pub at: Point,
    /// Degrees watered.
    pub arc: u16,
    /// Middle of the arc: degrees counter-clockwise from the right, 0 up to 360.
    #[serde(default)]
    pub facing: f64,
    /// Throw it is turned down to; none: as far as the nozzle throws.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub radius: Option<Length>,
    /// The valve that waters it; none yet.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub valve: Option<String>,
    /// Stays where it is when heads are laid out anew.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub locked: bool,
}

impl HeadGroup {
    /// Its heads have places on the board.
    pub fn is_drawn(&self) -> bool {
        !self.drawn.is_empty()
    }
}

impl Plan {
    /// A drawn head and its group.
    pub fn drawn_head(&self, id: &str) -> Option<(&HeadGroup, &DrawnHead)> {
        self.groups.iter().find_map(|g| Some((g, g.drawn.iter().find(|h| h.id == id)?)))
    }

    /// Where a valve stands: its own place, else the first valve box of its point of connection,
    /// else any, else the meter or the water. None where nothing of that is drawn.
    pub fn valve_point(&self, valve: &Valve) -> Option<Point> {
        let own = valve
            .valve_box
            .as_deref()
            .and_then(|id| self.site.places(PlaceKind::ValveBox).find(|(t, _)| t.id == id));
        let of_supply = || {
            self.site.places(PlaceKind::ValveBox).find(|(_, p)| p.supply.as_deref() == Some(&valve.supply))
        };
        let any = || {
            [PlaceKind::ValveBox, PlaceKind::Meter, PlaceKind::Water]
                .into_iter()
                .find_map(|kind| self.site.places(kind).next())
        };
        own.or_else(of_supply).or_else(any).map(|(_, p)| p.at)
    }

    /// Height of the ground from spot heights, zero where nothing was measured.
    pub fn ground(&self, at: Point) -> Length {
        height_at(&self.site.heights(), at).unwrap_or_default()
    }

    /// Height of a valve above its point of connection: by the ground where its main is drawn, else as
    /// listed.
    pub fn rise_to(&self, valve: &Valve) -> Length {
        let drawn = self.piping.main(&valve.supply).next().is_some();
        match (drawn, self.connection_point(&valve.supply), self.valve_point(valve)) {
            (true, Some(from), Some(to)) => self.ground(to) - self.ground(from),
            _ => valve.mainline.as_ref().map_or(Length::ZERO, |m| m.rise),
        }
    }

    /// Height of a group's highest head above its valve: as listed, or from the ground.
    pub fn rise_of(&self, group: &HeadGroup, valve: Option<&Valve>) -> Length {
        if !group.is_drawn() {
            return group.rise;
        }
        let spots = self.site.heights();
        let ground = |at| height_at(&spots, at).unwrap_or_default();
        let base = valve.and_then(|v| self.valve_point(v)).map_or(Length::ZERO, ground);
        let on = |h: &&DrawnHead| valve.is_none_or(|v| h.valve.as_deref() == Some(&v.id));
        group.drawn.iter().filter(on).map(|h| ground(h.at) - base).reduce(Length::max).unwrap_or_default()
    }
}
