use super::read::rows;
use crate::network::Loss;
use crate::units::{Flow, Pressure, UnitSystem};
use serde::Deserialize;

/// Where along the water's path a regulator sits.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Mounting {
    /// At the point of connection, for all valves.
    Connection,
    /// On the solenoid valve.
    Valve,
    /// In the pipe behind the valve.
    Inline,
}

/// A pressure regulator that is a part of its own (bodies with one inside are a figure of the kind).
#[derive(Debug, Clone, PartialEq)]
pub struct RegulatorModel {
    /// Stable name in files.
    pub id: String,
    /// Where it sits.
    pub mounting: Mounting,
    /// For people.
    pub label: String,
    /// Range it can be set to; `None` for preset ones.
    pub range: Option<(Pressure, Pressure)>,
    /// The set points it is made with.
    pub presets: Vec<Pressure>,
    /// Flow it works at; below it hunts or creeps.
    pub flow_band: (Flow, Flow),
    /// Its own loss when wide open.
    pub loss: Loss,
}

/// Presets as they are sold by the bar.
const PRESETS_BAR: [f64; 7] = [0.7, 1.0, 1.4, 1.7, 2.1, 2.8, 3.4];

impl RegulatorModel {
    /// The set points that it is sold with where people count in psi or in bar. Empty where it can be
    /// set freely.
    pub fn presets_in(&self, units: UnitSystem) -> Vec<Pressure> {
        if self.presets.is_empty() || units == UnitSystem::Us {
            return self.presets.clone();
        }
        PRESETS_BAR.map(|bar| Pressure::from_kpa(bar * 100.0)).to_vec()
    }
}

#[derive(Deserialize)]
struct RegulatorCsv {
    id: String,
    mounting: Mounting,
    label: String,
    set_min_psi: Option<f64>,
    set_max_psi: Option<f64>,
    preset_psi: String,
    flow_min_gpm: f64,
    flow_max_gpm: f64,
    loss_psi: f64,
    loss_at_gpm: f64,
}

pub(super) fn regulators() -> Vec<RegulatorModel> {
    rows::<RegulatorCsv>(include_str!("data/regulators.csv"))
        .into_iter()
        .map(|r| RegulatorModel {
            id: r.id,
            mounting: r.mounting,
            label: r.label,
            range: r
                .set_min_psi
                .zip(r.set_max_psi)
                .map(|(a, b)| (Pressure::from_psi(a), Pressure::from_psi(b))),
            presets: r.preset_psi.split(';').filter_map(|p| p.parse().ok()).map(Pressure::from_psi).collect(),
            flow_band: (Flow::from_gpm(r.flow_min_gpm), Flow::from_gpm(r.flow_max_gpm)),
            loss: Loss::Power {
                fixed: Pressure::ZERO,
                drop: Pressure::from_psi(r.loss_psi),
                at_flow: Flow::from_gpm(r.loss_at_gpm),
                exponent: 2.0,
            },
        })
        .collect()
}
