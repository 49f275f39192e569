//! What the piping behind a valve must hold.

use super::inputs::{Stage, ZoneInputs};
use super::model::ZoneModel;
use crate::network::Solution;
use crate::units::{Length, Pressure};

/// Pressures at the lowest point of the laterals, where they are highest.
///
/// At rest nothing is lost to friction: what stands there is the highest static (or cut-out) at the
/// valve, or what a regulator in the line before it holds, and the height from the valve down,
/// 9.81 kPa a metre. Regulated bodies hold nothing back for it: they sit at its ends.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Standing {
    /// How far the lowest point lies below the valve; zero where nothing does.
    pub below: Length,
    /// At the valve, before any regulator of the zone.
    pub before: Pressure,
    /// Set point of the zone's own regulator in the line.
    pub held: Option<Pressure>,
    /// At the lowest point with the water standing.
    pub at_rest: Pressure,
    /// The most in the laterals with water running, at the lowest street pressure.
    pub running: Pressure,
}

impl Standing {
    /// The most that the laterals see, standing or running.
    pub fn most(&self) -> Pressure {
        self.at_rest.max(self.running)
    }

    pub(super) fn of(inputs: &ZoneInputs, model: &ZoneModel, solution: &Solution, before: Pressure) -> Self {
        let behind = model.lateral_inlet..model.network.nodes.len();
        let valve = model.network.nodes[model.valve_inlet].elevation;
        let nodes = &model.network.nodes[behind.clone()];
        let lowest = nodes.iter().map(|n| n.elevation).fold(valve, Length::min);
        let below = valve - lowest;
        let presets = inputs.train.iter().filter_map(|stage| match stage {
            Stage::Preset { set, .. } => Some(*set),
            _ => None,
        });
        let held = inputs.regulator.as_ref().map(|r| r.set).into_iter().chain(presets).reduce(Pressure::min);
        let at_valve = held.map_or(before, |set| set.min(before));
        let pressures = &solution.pressures[behind];
        Self {
            below,
            before,
            held,
            at_rest: at_valve + Pressure::of_height(below),
            running: pressures.iter().copied().fold(Pressure::ZERO, Pressure::max),
        }
    }
}
