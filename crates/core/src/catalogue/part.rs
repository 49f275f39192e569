//! Parts that an assembly is put together of: what they do, how they join, what they bear.

use super::read::rows;
use crate::network::Loss;
use crate::units::{Flow, Length, Pressure};
use serde::Deserialize;
use std::fmt;
use std::str::FromStr;

/// What a part does.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum PartRole {
    /// Where the water comes from.
    Source,
    /// Opens and shuts the zone.
    Valve,
    /// The same with a vacuum breaker in it.
    AntiSiphon,
    /// The same on a battery at a hose bib.
    Timer,
    /// Keeps water from being sucked back.
    Breaker,
    /// Shuts by hand.
    Isolation,
    /// Two ways from one tap.
    Splitter,
    /// Takes the knock of a valve that shuts fast.
    Arrester,
    /// Takes out chlorine.
    Cartridge,
    /// Holds dirt back.
    Filter,
    /// Holds pressure down.
    Regulator,
    /// Raises pressure.
    Pump,
    /// Pipe from the valve to the bed.
    Run,
    /// Gives and turns.
    SwingJoint,
    /// Joins ends that do not fit by themselves.
    Joint,
    /// From thread to tube, to be undone.
    Transition,
    /// Header below ground.
    Header,
    /// Several outlets on one riser.
    Manifold,
    /// At an end of the tubes.
    End,
}

/// How a part ends.
#[derive(Debug, Clone, PartialEq, Eq, Hash)]
pub enum PartEnd {
    /// Tapered pipe thread.
    Thread {
        /// Nominal size.
        size: String,
        /// Outside.
        male: bool,
    },
    /// Hose thread, which a washer seals.
    Hose {
        /// Outside.
        male: bool,
    },
    /// Socket or spigot to be glued.
    Slip {
        /// Nominal size.
        size: String,
        /// The spigot.
        male: bool,
    },
    /// A fitting for tube of this outside diameter.
    Tube(String),
}

/// Not the end of a part.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("unknown end ‘{0}’. Use thread 3/4in m, hose f, slip 3/4in f or tube 16mm")]
pub struct PartEndError(String);

impl FromStr for PartEnd {
    type Err = PartEndError;
    fn from_str(text: &str) -> Result<Self, PartEndError> {
        let words: Vec<&str> = text.split_whitespace().collect();
        let male = |w: &str| match w {
            "m" => Some(true),
            "f" => Some(false),
            _ => None,
        };
        let end = match words[..] {
            ["thread", size, side] => male(side).map(|male| Self::Thread { size: size.into(), male }),
            ["slip", size, side] => male(side).map(|male| Self::Slip { size: size.into(), male }),
            ["hose", side] => male(side).map(|male| Self::Hose { male }),
            ["tube", size] => Some(Self::Tube(size.into())),
            _ => None,
        };
        end.ok_or_else(|| PartEndError(text.chars().take(40).collect()))
    }
}

impl fmt::Display for PartEnd {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let side = |male: &bool| if *male { "m" } else { "f" };
        match self {
            Self::Thread { size, male } => write!(f, "thread {size} {}", side(male)),
            Self::Slip { size, male } => write!(f, "slip {size} {}", side(male)),
            Self::Hose { male } => write!(f, "hose {}", side(male)),
            Self::Tube(size) => write!(f, "tube {size}"),
        }
    }
}

/// How a joint is sealed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, serde::Serialize, Deserialize, schemars::JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Seal {
    /// Thread tape, hand-tight and a little.
    Tape,
    /// A washer, hand-tight; no tape.
    Washer,
    /// Pushed or screwed on by hand; nothing.
    Nothing,
    /// Primer and cement.
    Cement,
}

impl PartEnd {
    /// How this outlet and that inlet are sealed together; none: they do not fit.
    pub fn seal_to(&self, inlet: &Self) -> Option<Seal> {
        match (self, inlet) {
            (Self::Thread { size: a, male: m }, Self::Thread { size: b, male: n }) if a == b && m != n => {
                Some(Seal::Tape)
            }
            (Self::Slip { size: a, .. }, Self::Slip { size: b, .. }) if a == b => Some(Seal::Cement),
            (Self::Hose { male: true }, Self::Hose { male: false }) => Some(Seal::Washer),
            (Self::Tube(a), Self::Tube(b)) if a == b => Some(Seal::Nothing),
            _ => None,
        }
    }
}

/// A part of an assembly.
#[derive(Debug, Clone, PartialEq)]
pub struct Part {
    /// Stable name in files.
    pub id: String,
    /// What it does.
    pub role: PartRole,
    /// For people.
    pub label: String,
    /// Where water comes in; none at the source.
    pub inlet: Option<PartEnd>,
    /// Where it goes out; none at an end.
    pub outlet: Option<PartEnd>,
    /// What it costs; none: nothing, or as the zone's own device says.
    pub loss: Option<Loss>,
    /// What it holds, if it regulates and nothing else is said.
    pub preset: Option<Pressure>,
    /// What it bears.
    pub rating: Pressure,
    /// Least and greatest flow.
    pub band: (Option<Flow>, Option<Flow>),
    /// How long it is.
    pub length: Length,
    /// Room beside it to open it.
    pub clear: Length,
    /// It works one way round only.
    pub arrow: bool,
}

#[derive(Deserialize)]
struct PartCsv {
    id: String,
    role: PartRole,
    label: String,
    inlet: Option<String>,
    outlet: Option<String>,
    square_gpm: Option<f64>,
    least_psi: Option<f64>,
    preset_psi: Option<f64>,
    rating_psi: f64,
    flow_min_gpm: Option<f64>,
    flow_max_gpm: Option<f64>,
    length_in: Option<f64>,
    clear_in: Option<f64>,
    arrow: Option<String>,
}

pub(super) fn parts() -> Vec<Part> {
    let end = |text: Option<String>| text.map(|t| t.parse().expect("an end"));
    let of = |r: PartCsv| Part {
        loss: r.square_gpm.map(|gpm| Loss::Power {
            fixed: Pressure::ZERO,
            drop: Pressure::from_psi(r.least_psi.unwrap_or(1.0)),
            at_flow: Flow::from_gpm(gpm),
            exponent: 2.0,
        }),
        id: r.id,
        role: r.role,
        label: r.label,
        inlet: end(r.inlet),
        outlet: end(r.outlet),
        preset: r.preset_psi.map(Pressure::from_psi),
        rating: Pressure::from_psi(r.rating_psi),
        band: (r.flow_min_gpm.map(Flow::from_gpm), r.flow_max_gpm.map(Flow::from_gpm)),
        length: Length::from_in(r.length_in.unwrap_or(0.0)),
        clear: Length::from_in(r.clear_in.unwrap_or(0.0)),
        arrow: r.arrow.is_some(),
    };
    rows::<PartCsv>(include_str!("data/parts.csv")).into_iter().map(of).collect()
}
