use crate::catalogue::{Catalogue, Kind, Lies, Nozzle, PipeDuty, PipeId};
use crate::site::{Exposure, Plants, Soil};
use crate::units::{Flow, Length};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// Heads of one nozzle on one area, listed or drawn.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct HeadGroup {
    /// Stable name in the file.
    pub id: String,
    /// The area, e.g. `Front lawn`.
    pub name: String,
    /// What grows there.
    pub plants: Plants,
    /// Sun.
    #[serde(default)]
    pub exposure: Exposure,
    /// Soil.
    #[serde(default)]
    pub soil: Soil,
    /// Slope of the ground in percent, 0 to 100.
    #[serde(default)]
    pub slope_percent: f64,
    /// Nozzle, emitter or dripline of the catalogue.
    pub nozzle: String,
    /// The drawn area that they water.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub area: Option<String>,
    /// Heads in the order along the pipe, where they are only listed.
    #[serde(rename = "lots", default, skip_serializing_if = "Vec::is_empty")]
    pub listed: Vec<ArcCount>,
    /// Heads with a place on the board. A group has these or listed ones.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub drawn: Vec<super::DrawnHead>,
    /// How the lateral reaches them.
    pub arrangement: Arrangement,
    /// Between heads along the pipe (between rows, for dripline).
    pub spacing: Length,
    /// Between rows of heads; none: the same as between heads.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub row_spacing: Option<Length>,
    /// Lateral pipe.
    pub pipe: PipeId,
    /// The first leg where it is larger than the lateral.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub feed_pipe: Option<PipeId>,
    /// Pipe from the valve to the first head, or to where the rows are fed.
    pub distance: Length,
    /// Height of the highest head above the valve; negative downhill.
    #[serde(default)]
    pub rise: Length,
    /// For dripline and tape: what one row is. A ‘head’ of the group is then a row.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub row: Option<DripRow>,
    /// Drip that is laid over its drawn area. A drawn ‘head’ of the group is then an inlet, and waters one
    /// part of it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub drip: Option<super::DripLaying>,
}

/// So many heads of one arc, on one valve.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct ArcCount {
    /// Degrees.
    pub arc: u16,
    /// How many.
    pub count: u32,
    /// The valve that waters them; none yet.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub valve: Option<String>,
}

/// A row of dripline or tape.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct DripRow {
    /// Emitters on it.
    pub emitters: u32,
    /// Between emitters.
    pub emitter_spacing: Length,
}

/// How a lateral reaches its heads.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Arrangement {
    /// One after the other.
    Chain,
    /// A tee in the middle of the row.
    Middle,
    /// Two rows, joined and each fed in its middle.
    H,
}

/// One head: its group and its place along the pipe, from 0.
#[derive(Debug, Clone, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
pub struct HeadRef {
    /// Group id.
    pub group: String,
    /// Place.
    pub index: u32,
}

impl HeadGroup {
    /// A group as most are, without heads: lawn, loam, full sun, level, 3/4 in class 200 in a chain.
    pub fn new(id: &str, name: &str, nozzle: &str) -> Self {
        Self {
            id: id.to_owned(),
            name: name.to_owned(),
            plants: Plants::Lawn,
            exposure: Exposure::default(),
            soil: Soil::default(),
            slope_percent: 0.0,
            nozzle: nozzle.to_owned(),
            area: None,
            listed: Vec::new(),
            drawn: Vec::new(),
            arrangement: Arrangement::Chain,
            spacing: Length::from_ft(12.0),
            row_spacing: None,
            pipe: Catalogue::builtin().pipe_of(PipeDuty::Lateral).id(),
            feed_pipe: None,
            distance: Length::from_ft(20.0),
            rise: Length::ZERO,
            row: None,
            drip: None,
        }
    }

    /// Ground that one listed head of an arc is to water, m2, by the spacing that it is laid at: head by
    /// row spacing, in proportion to the arc; a strip by the spacing along it (an end strip by half of it) and
    /// its own width (between rows where rows are given); a row of drip by its emitters.
    pub fn ground_of(&self, nozzle: &Nozzle, arc: u16) -> f64 {
        let spacing = self.spacing.m();
        let rows = self.row_spacing.unwrap_or(self.spacing).m();
        if let Some(row) = self.row {
            return spacing * row.emitter_spacing.m() * f64::from(row.emitters);
        }
        match (nozzle.pattern, nozzle.kind) {
            (Some(strip), _) if strip.width == strip.length => spacing * rows,
            // A row of so many spacings has an end strip at each end: each of them waters half a spacing.
            (Some(strip), _) => {
                let along = if strip.lies == Lies::Ahead { 0.5 * spacing } else { spacing };
                along * self.row_spacing.unwrap_or(strip.width).m()
            }
            (None, Kind::Bubbler | Kind::Emitter) => spacing * rows,
            (None, _) => spacing * rows * f64::from(arc) / 360.0,
        }
    }

    /// [`Self::ground_of`] a head by its place: less of it where it is turned down and keeps its rate.
    pub fn ground_of_head(&self, nozzle: &Nozzle, index: u32, arc: u16) -> f64 {
        let full = nozzle.flow_for_arc(arc);
        let share = nozzle.flow_set(arc, self.turned_down(index)) / full;
        self.ground_of(nozzle, arc) * if full > Flow::ZERO { share } else { 1.0 }
    }

    /// How many heads.
    pub fn count(&self) -> u32 {
        self.listed.iter().map(|l| l.count).sum::<u32>() + self.drawn.len() as u32
    }

    /// Throw that a head is turned down to, by its place among [`Self::heads`]; listed ones are not.
    pub fn turned_down(&self, index: u32) -> Option<Length> {
        let listed: u32 = self.listed.iter().map(|l| l.count).sum();
        let drawn = index.checked_sub(listed)?;
        self.drawn.get(drawn as usize)?.radius
    }

    /// Flow of a head at nominal pressure as it is set, by its place and arc; of a listed row, of all its
    /// emitters.
    pub fn flow_of(&self, nozzle: &Nozzle, index: u32, arc: u16) -> Flow {
        nozzle.flow_set(arc, self.turned_down(index)) * f64::from(self.row.map_or(1, |r| r.emitters))
    }

    /// (place, arc, valve) of every head.
    pub fn heads(&self) -> impl Iterator<Item = (u32, u16, Option<&str>)> {
        let listed =
            self.listed.iter().flat_map(|lot| (0..lot.count).map(move |_| (lot.arc, lot.valve.as_deref())));
        listed
            .chain(self.drawn.iter().map(|h| (h.arc, h.valve.as_deref())))
            .zip(0..)
            .map(|((arc, valve), i)| (i, arc, valve))
    }

    /// True if any of its heads is on a valve.
    pub fn is_on(&self, valve: &str) -> bool {
        self.listed.iter().any(|l| l.valve.as_deref() == Some(valve))
            || self.drawn.iter().any(|h| h.valve.as_deref() == Some(valve))
    }

    /// The heads on a valve, or on none.
    pub fn heads_on(&self, valve: Option<&str>) -> Vec<HeadRef> {
        self.heads()
            .filter(|(_, _, on)| *on == valve)
            .map(|(index, _, _)| HeadRef { group: self.id.clone(), index })
            .collect()
    }

    /// Puts each head where `valve_of` says, joining listed neighbours of one kind into lots.
    pub fn reassign(&mut self, mut valve_of: impl FnMut(u32, Option<&str>) -> Option<String>) {
        let listed: u32 = self.listed.iter().map(|l| l.count).sum();
        let mut lots: Vec<ArcCount> = Vec::new();
        for (index, arc, on) in self.heads().take(listed as usize) {
            let valve = valve_of(index, on);
            match lots.last_mut() {
                Some(lot) if lot.arc == arc && lot.valve == valve => lot.count += 1,
                _ => lots.push(ArcCount { arc, count: 1, valve }),
            }
        }
        self.listed = lots;
        for (head, index) in self.drawn.iter_mut().zip(listed..) {
            head.valve = valve_of(index, head.valve.as_deref());
        }
    }

    /// The same counts by arc without valves, as the Heads form shows them.
    pub fn counts_by_arc(&self) -> Vec<(u16, u32)> {
        let mut counts: Vec<(u16, u32)> = Vec::new();
        for lot in &self.listed {
            match counts.iter_mut().find(|(arc, _)| *arc == lot.arc) {
                Some((_, n)) => *n += lot.count,
                None => counts.push((lot.arc, lot.count)),
            }
        }
        counts
    }

    /// New counts by arc: heads that stay keep their valve, new ones have none.
    pub fn with_counts(&self, counts: &[(u16, u32)]) -> Vec<ArcCount> {
        let mut lots = Vec::new();
        for &(arc, wanted) in counts {
            let mut left = wanted;
            for lot in self.listed.iter().filter(|l| l.arc == arc) {
                let count = lot.count.min(left);
                if count > 0 {
                    lots.push(ArcCount { count, ..lot.clone() });
                    left -= count;
                }
            }
            if left > 0 {
                lots.push(ArcCount { arc, count: left, valve: None });
            }
        }
        lots
    }
}
