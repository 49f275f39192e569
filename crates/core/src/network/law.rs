//! Pressure cost of a flow, with its slope: what the solver asks of every part.
//! Plain numbers here, kPa and L/min: this is the innermost loop.

use super::{Emission, LinkKind, Loss, Network, SourceLaw};
use crate::units::{Flow, KPA_PER_M, Length, Pressure};

/// Hazen-Williams exponent of the flow.
const HW_EXPONENT: f64 = 1.852;
/// Below this flow (L/min) a power law is replaced by its chord through zero, so that its slope
/// never vanishes. A drip emitter gives some 0.03 L/min; the error is below 1e-5 kPa on any pipe.
const LINEAR_BELOW: f64 = 1e-4;
/// Least slope, kPa per L/min, of a flat stretch of a curve or of a part without flow: keeps the
/// rounding of the heads (1e-12 kPa) from turning into flow.
const LEAST_SLOPE: f64 = 1e-3;
/// The same for a pipe without flow.
const LEAST_PIPE_SLOPE: f64 = 1e-6;

/// Friction loss of a straight pipe.
///
/// h = 10.67 L Q^1.852 / (C^1.852 D^4.8704), metres of water, m3/s; the same as
/// psi/ft = 4.52 Q^1.852 / (C^1.852 d^4.8704), gpm, in, to 0.1 %.
///
/// # Valid range
/// Water at ordinary temperature, turbulent, 12 mm and up; `inside` > 0, `c` > 0.
///
/// # Source
/// Williams, G. S. and Hazen, A. (1905), Hydraulic Tables; SI form as in EN 12845.
///
/// # Example
/// By hand: 100 ft of 1 in class 200 (1.189 in inside, C 150) at 10 gpm cost
/// 100 · 4.52 · 10^1.852 / (150^1.852 · 1.189^4.8704) = 1.29 psi.
///
/// ```
/// use fenlo_core::network::hazen_williams;
/// use fenlo_core::units::{Flow, Length};
///
/// let inside = Length::from_in(1.189);
/// let loss = hazen_williams(Flow::from_gpm(10.0), Length::from_ft(100.0), inside, 150.0);
/// assert!((loss.psi() - 1.29).abs() < 0.01, "{}", loss.psi());
/// ```
pub fn hazen_williams(flow: Flow, length: Length, inside: Length, c: f64) -> Pressure {
    let q = flow.lpm();
    Pressure::from_kpa(pipe_factor(length.m(), inside.m(), c) * q.abs().powf(HW_EXPONENT) * q.signum())
}

/// The flow that costs this pressure in a pipe: the inverse of [`hazen_williams`].
pub fn hazen_williams_flow(loss: Pressure, length: Length, inside: Length, c: f64) -> Flow {
    Flow::from_lpm((loss.kpa() / pipe_factor(length.m(), inside.m(), c)).powf(1.0 / HW_EXPONENT))
}

fn pipe_factor(length_m: f64, inside_m: f64, c: f64) -> f64 {
    KPA_PER_M * 10.67 * length_m / (c.powf(HW_EXPONENT) * inside_m.powf(4.8704)) / 60_000f64.powf(HW_EXPONENT)
}

/// A monotone relation h(q), odd for pipes, for q >= 0 otherwise.
#[derive(Debug, Clone)]
pub(super) enum Law {
    /// r |q|^0.852 q + m |q| q.
    Pipe { r: f64, m: f64 },
    /// fixed + a q^n.
    Power { fixed: f64, a: f64, n: f64 },
    /// A rising curve.
    Rising(super::Curve),
    /// The fall of a pump below its shut-off pressure.
    Falling { shut_off: f64, curve: super::Curve },
}

impl Law {
    pub(super) fn of_link(kind: &LinkKind) -> Self {
        match kind {
            LinkKind::Pipe {
                length,
                inside,
                roughness_c,
                minor_loss_k,
                ..
            } => {
                let area = std::f64::consts::PI * inside.m().powi(2) / 4.0;
                Self::Pipe {
                    r: pipe_factor(length.m(), inside.m(), *roughness_c),
                    // K v2/2g metres of water is K v2/2 kPa, v in m/s.
                    m: minor_loss_k / 2.0 / (60_000.0 * area).powi(2),
                }
            }
            LinkKind::Device(loss) | LinkKind::Regulator { loss, .. } => Self::of_loss(loss),
        }
    }

    pub(super) fn of_loss(loss: &Loss) -> Self {
        match loss {
            Loss::Power {
                fixed,
                drop,
                at_flow,
                exponent,
            } => Self::Power {
                fixed: fixed.kpa(),
                a: drop.kpa() / at_flow.lpm().powf(*exponent),
                n: *exponent,
            },
            Loss::Curve(curve) => Self::Rising(curve.clone()),
        }
    }

    /// Pressure at no flow, and the fall below it.
    pub(super) fn of_source(law: &SourceLaw) -> (f64, Self) {
        match law {
            SourceLaw::Measured {
                static_pressure,
                drop,
                at_flow,
                exponent,
            } => {
                let a = drop.kpa() / at_flow.lpm().powf(*exponent);
                (
                    static_pressure.kpa(),
                    Self::Power {
                        fixed: 0.0,
                        a,
                        n: *exponent,
                    },
                )
            }
            SourceLaw::Curve(curve) => {
                let shut_off = curve.at(0.0).0;
                (
                    shut_off,
                    Self::Falling {
                        shut_off,
                        curve: curve.clone(),
                    },
                )
            }
        }
    }

    /// h(q) and its slope, which is never zero.
    pub(super) fn at(&self, q: f64) -> (f64, f64) {
        let size = q.abs();
        match self {
            Self::Pipe { r, m } => {
                if size < LINEAR_BELOW {
                    let slope =
                        (r * LINEAR_BELOW.powf(HW_EXPONENT - 1.0) + m * LINEAR_BELOW).max(LEAST_PIPE_SLOPE);
                    return (slope * q, slope);
                }
                let power = r * size.powf(HW_EXPONENT - 1.0);
                (power * q + m * size * q, HW_EXPONENT * power + 2.0 * m * size)
            }
            Self::Power { fixed, a, n } => {
                if size < LINEAR_BELOW {
                    let slope = (a * LINEAR_BELOW.powf(n - 1.0)).max(LEAST_SLOPE);
                    return (fixed + slope * q, slope);
                }
                let power = a * size.powf(*n);
                (fixed + power, (n * power / size).max(LEAST_SLOPE))
            }
            Self::Rising(curve) => {
                let (h, slope) = curve.at(size);
                (h, slope.max(LEAST_SLOPE))
            }
            Self::Falling { shut_off, curve } => {
                let (p, slope) = curve.at(size);
                (shut_off - p, (-slope).max(LEAST_SLOPE))
            }
        }
    }
}

/// Pressure, kPa, below which an emitter's flow goes straight to zero.
const STRAIGHT_BELOW: f64 = 0.05;

/// An emitter as the solver sees it: h(q) = at (q / flow)^(1/x) up to `limit`, flat above.
#[derive(Debug, Clone, Copy)]
pub(super) struct EmitterLaw {
    flow: f64,
    at: f64,
    inverse: f64,
    /// Pressure from which the flow rises no more.
    pub(super) limit: f64,
    /// The flow from there up.
    pub(super) most: f64,
}

impl EmitterLaw {
    pub(super) fn of(emission: &Emission) -> Self {
        match *emission {
            Emission::Orifice {
                flow,
                at_pressure,
                exponent,
                regulator,
            } => {
                let limit = regulator.map_or(f64::INFINITY, Pressure::kpa);
                let most = regulator.map_or(f64::INFINITY, |r| flow.lpm() * (r / at_pressure).powf(exponent));
                Self {
                    flow: flow.lpm(),
                    at: at_pressure.kpa(),
                    inverse: 1.0 / exponent,
                    limit,
                    most,
                }
            }
            Emission::Compensating { flow, min } => Self {
                flow: flow.lpm(),
                at: min.kpa(),
                inverse: 2.0,
                limit: min.kpa(),
                most: flow.lpm(),
            },
        }
    }

    /// Pressure wanted at a flow, and its slope.
    pub(super) fn at(&self, q: f64) -> (f64, f64) {
        let q = q.max(self.flow * 1e-7);
        let h = self.at * (q / self.flow).powf(self.inverse);
        (h, (self.inverse * h / q).max(1e-9))
    }

    /// Flow below which the law is a straight line through zero, and its slope in L/min per kPa:
    /// the slope of a root at zero has no end, and heads at the edge of running dry would make the
    /// iteration jump to and fro. The line spans [`STRAIGHT_BELOW`], a hundredth of a psi.
    pub(super) fn straight(&self) -> (f64, f64) {
        let p = STRAIGHT_BELOW.min(self.limit / 2.0);
        let q = self.flow * (p / self.at).powf(1.0 / self.inverse);
        (q, q / p)
    }

    /// The flow at a pressure.
    pub(super) fn flow_at(&self, p: f64) -> f64 {
        let (least, slope) = self.straight();
        if p <= 0.0 {
            0.0
        } else if p * slope < least {
            p * slope
        } else {
            self.flow * (p.min(self.limit) / self.at).powf(1.0 / self.inverse)
        }
    }

    /// The flow wanted at the nominal pressure: where the iteration starts.
    pub(super) fn nominal(&self) -> f64 {
        self.flow.min(self.most)
    }
}

/// Total of the nominal flows: the scale of the network.
pub(super) fn nominal_total(network: &Network) -> f64 {
    network
        .emitters
        .iter()
        .map(|e| EmitterLaw::of(&e.emission).nominal())
        .sum()
}

impl LinkKind {
    /// What a flow costs in it: friction and minor losses of a pipe, the loss of a device, a
    /// regulator's own loss when wide open. Height is not in it.
    pub fn loss_at(&self, flow: Flow) -> Pressure {
        Pressure::from_kpa(Law::of_link(self).at(flow.lpm()).0)
    }
}

impl SourceLaw {
    /// The same source with so much more pressure at every flow.
    #[must_use]
    pub fn raised(&self, by: Pressure) -> Self {
        match self.clone() {
            Self::Measured {
                static_pressure,
                drop,
                at_flow,
                exponent,
            } => Self::Measured {
                static_pressure: static_pressure + by,
                drop,
                at_flow,
                exponent,
            },
            Self::Curve(curve) => Self::Curve(curve.raised(by.kpa())),
        }
    }
}

impl Loss {
    /// The same with so much more at every flow.
    #[must_use]
    pub fn with_more(&self, more: Pressure) -> Self {
        match self.clone() {
            Self::Power {
                fixed,
                drop,
                at_flow,
                exponent,
            } => Self::Power {
                fixed: fixed + more,
                drop,
                at_flow,
                exponent,
            },
            Self::Curve(curve) => Self::Curve(curve.raised(more.kpa())),
        }
    }

    /// Pressure spent at a flow of zero or more.
    pub fn at(&self, flow: Flow) -> Pressure {
        Pressure::from_kpa(Law::of_loss(self).at(flow.lpm()).0)
    }
}
