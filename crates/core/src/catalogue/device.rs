use super::read::rows;
use crate::network::{Curve, Loss};
use crate::units::{Flow, Pressure};
use serde::Deserialize;

/// Loss of a displacement meter at its safe maximum flow.
///
/// # Source
/// AWWA C700, Cold-Water Meters, Displacement Type: about 15 psi at the safe maximum operating capacity.
pub const METER_LOSS_AT_MAX_PSI: f64 = 15.0;

/// A displacement water meter.
#[derive(Debug, Clone, PartialEq)]
pub struct Meter {
    /// Nominal size, e.g. `3/4in`.
    pub size: String,
    /// Safe maximum flow (AWWA C700).
    pub safe_max: Flow,
}

impl Meter {
    /// 15 psi * (Q / Qmax)^2.
    pub fn loss(&self) -> Loss {
        Loss::Power {
            fixed: Pressure::ZERO,
            drop: Pressure::from_psi(METER_LOSS_AT_MAX_PSI),
            at_flow: self.safe_max,
            exponent: 2.0,
        }
    }
}

/// What a device is for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Role {
    /// Keeps water from flowing back into the main.
    Backflow,
    /// Shuts the system off.
    Isolation,
    /// Opens and shuts a zone.
    Valve,
    /// Holds dirt back.
    Filter,
}

/// What a solenoid valve is taken for where nobody chose one.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Duty {
    /// The usual one.
    Standard,
    /// Drip, and other zones of little flow.
    LowFlow,
    /// Never proposed: only where an installer asks for it.
    Small,
}

/// Where a device that keeps water from flowing back may stand.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum BackflowPlace {
    /// In the shared chain, at any height.
    Shared,
    /// In the shared chain, above the highest outlet.
    AboveHeads,
    /// On its own valve, above what that waters, with no valve after it.
    OwnValve,
    /// On a hose bib.
    HoseBib,
}

/// A backflow device, isolation valve, solenoid valve or filter.
#[derive(Debug, Clone, PartialEq)]
pub struct Device {
    /// Stable name in files.
    pub id: String,
    /// What it is for.
    pub role: Role,
    /// For people.
    pub label: String,
    /// What it costs at a flow.
    pub loss: Loss,
    /// Least flow at which it closes reliably (valves).
    pub min_flow: Option<Flow>,
    /// What it is taken for where nobody chose one.
    pub duty: Option<Duty>,
    /// Devices of several sizes that do the same; none of what comes in one.
    pub family: Option<String>,
    /// Flow up to which it is proposed, where something larger follows; past it a backflow device is too small.
    pub proposed_to: Option<Flow>,
    /// Where it may stand, if it keeps water from flowing back.
    pub place: Option<BackflowPlace>,
    /// A rule of its use, as practised; the local code decides.
    pub note: String,
}

#[derive(Deserialize)]
struct MeterCsv {
    size: String,
    safe_max_gpm: f64,
}

pub(super) fn meters() -> Vec<Meter> {
    rows::<MeterCsv>(include_str!("data/meters.csv"))
        .into_iter()
        .map(|r| Meter { size: r.size, safe_max: Flow::from_gpm(r.safe_max_gpm) })
        .collect()
}

#[derive(Deserialize)]
struct DeviceCsv {
    id: String,
    role: Role,
    label: String,
    points_gpm_psi: String,
    square_gpm: Option<f64>,
    least_psi: Option<f64>,
    min_flow_gpm: Option<f64>,
    note: String,
    duty: Option<Duty>,
    max_flow_gpm: Option<f64>,
    place: Option<BackflowPlace>,
    family: Option<String>,
}

pub(super) fn devices() -> Vec<Device> {
    rows::<DeviceCsv>(include_str!("data/devices.csv"))
        .into_iter()
        .map(|r| Device {
            loss: match (r.square_gpm, r.least_psi) {
                (Some(gpm), None) => square(gpm),
                (Some(gpm), Some(least)) => square_at_least(gpm, least),
                (None, _) => listed(&r.points_gpm_psi),
            },
            id: r.id,
            role: r.role,
            label: r.label,
            min_flow: r.min_flow_gpm.map(Flow::from_gpm),
            duty: r.duty,
            proposed_to: r.max_flow_gpm.map(Flow::from_gpm),
            place: r.place,
            family: r.family,
            note: r.note,
        })
        .collect()
}

/// (Q / gpm)^2 psi.
fn square(gpm: f64) -> Loss {
    Loss::Power {
        fixed: Pressure::ZERO,
        drop: Pressure::from_psi(1.0),
        at_flow: Flow::from_gpm(gpm),
        exponent: 2.0,
    }
}

/// The same, but never under `least` psi: a diaphragm valve needs it to stay open.
fn square_at_least(gpm: f64, least: f64) -> Loss {
    let knee = gpm * least.sqrt();
    let points: Vec<(f64, f64)> = [0.0, 0.5, 1.0, 1.15, 1.3, 1.5, 1.8, 2.2, 2.7, 3.3, 4.0]
        .map(|r: f64| (Flow::from_gpm(knee * r).lpm(), Pressure::from_psi(least * (r * r).max(1.0)).kpa()))
        .to_vec();
    Loss::Curve(Curve::through(&points).expect("a square rises"))
}

fn listed(points: &str) -> Loss {
    let points: Vec<(f64, f64)> = points
        .split(';')
        .map(|pair| {
            let (q, p) = pair.split_once(':').expect("gpm:psi");
            let number = |t: &str| t.parse::<f64>().expect("a number");
            (Flow::from_gpm(number(q)).lpm(), Pressure::from_psi(number(p)).kpa())
        })
        .collect();
    Loss::Curve(Curve::through(&points).expect("losses rise with flow"))
}
