//! Pressure cost of a flow, with its slope: what the solver asks of every part.
//! Plain numbers here, kPa and L/min: this is the innermost loop.

use super::{Emission, LinkKind, Loss, SourceLaw};
use crate::units::{Flow, KPA_PER_M, Length, Pressure, Speed};

/// Hazen-Williams exponent of the flow.
const HW_EXPONENT: f64 = 1.852;
/// Below this flow (L/min) a power law is replaced by its chord through zero, so that its slope
/// never vanishes. A drip emitter gives some 0.03 L/min; the error is below 1e-5 kPa on any pipe.
const LINEAR_BELOW: f64 = 1e-4;
/// Least slope, kPa per L/min, of a part in a loop, but for pipes: on a flat stretch of its curve, or without
/// flow, the rounding of the heads (1e-12 kPa) must not turn into flow.
pub(super) const LEAST_SLOPE: f64 = 1e-3;
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

/// K v2/2g metres of water is K v2/2 kPa, v in m/s: this for a K of 1 and 1 L/min.
fn minor_factor(inside_m: f64) -> f64 {
    let area = std::f64::consts::PI * inside_m.powi(2) / 4.0;
    0.5 / (60_000.0 * area).powi(2)
}

/// Mean velocity of 1 L/min, m/s.
fn speed_factor(inside: Length) -> f64 {
    Speed::in_pipe(Flow::from_lpm(1.0), inside).mps()
}

/// A power, short where it is a square or a root: they nearly always are.
fn power(x: f64, n: f64) -> f64 {
    if n == 2.0 {
        x * x
    } else if n == 0.5 {
        x.sqrt()
    } else {
        x.powf(n)
    }
}

/// A monotone relation h(q), odd for pipes, for q >= 0 otherwise.
#[derive(Debug, Clone, Copy)]
pub(super) enum Law<'a> {
    /// r |q|^0.852 q + m |q| q; `speed` is that of 1 L/min, m/s: kept so that the pipe need not be looked up.
    Pipe { r: f64, m: f64, speed: f64 },
    /// fixed + a q^n.
    Power { fixed: f64, a: f64, n: f64 },
    /// A rising curve.
    Rising(&'a super::Curve),
    /// The fall of a pump below its shut-off pressure.
    Falling { shut_off: f64, curve: &'a super::Curve },
}

impl<'a> Law<'a> {
    pub(super) fn of_link(kind: &'a LinkKind) -> Self {
        match kind {
            LinkKind::Pipe { length, inside, roughness_c, minor_loss_k, .. } => Self::Pipe {
                r: pipe_factor(length.m(), inside.m(), *roughness_c),
                m: minor_loss_k * minor_factor(inside.m()),
                speed: speed_factor(*inside),
            },
            LinkKind::Device(loss) | LinkKind::Regulator { loss, .. } => Self::of_loss(loss),
        }
    }

    pub(super) fn of_loss(loss: &'a Loss) -> Self {
        match loss {
            Loss::Power { fixed, drop, at_flow, exponent } => Self::Power {
                fixed: fixed.kpa(),
                a: drop.kpa() / at_flow.lpm().powf(*exponent),
                n: *exponent,
            },
            Loss::Curve(curve) => Self::Rising(curve),
        }
    }

    /// Pressure at no flow, and the fall below it.
    pub(super) fn of_source(law: &'a SourceLaw) -> (f64, Self) {
        match law {
            SourceLaw::Measured { static_pressure, drop, at_flow, exponent } => {
                let a = drop.kpa() / at_flow.lpm().powf(*exponent);
                (static_pressure.kpa(), Self::Power { fixed: 0.0, a, n: *exponent })
            }
            SourceLaw::Curve(curve) => {
                let shut_off = curve.at(0.0).0;
                (shut_off, Self::Falling { shut_off, curve })
            }
        }
    }

    /// h(q) and its slope: zero on a flat stretch of a curve and in a part that costs nothing.
    pub(super) fn at(&self, q: f64) -> (f64, f64) {
        let size = q.abs();
        match self {
            Self::Pipe { r, m, .. } => {
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
                    let slope = a * LINEAR_BELOW.powf(n - 1.0);
                    return (fixed + slope * q, slope);
                }
                let power = a * power(size, *n);
                (fixed + power, n * power / size)
            }
            Self::Rising(curve) => {
                let (h, slope) = curve.at(size);
                (h, slope.max(0.0))
            }
            Self::Falling { shut_off, curve } => {
                let (p, slope) = curve.at(size);
                (shut_off - p, (-slope).max(0.0))
            }
        }
    }

    /// The same as [`Law::at`] at a flow `q`, told the slope at a flow `from`: near it a pipe's power follows
    /// by its series, at a fraction of a power's price. The last steps of the solver move flows by little.
    pub(super) fn at_from(&self, q: f64, from: f64, slope: f64) -> (f64, f64) {
        let Self::Pipe { r, m, .. } = self else {
            return self.at(q);
        };
        let by = q / from - 1.0;
        let near = by.abs() < NEAR && from.abs() > 2.0 * LINEAR_BELOW;
        if !near || *r == 0.0 {
            return self.at(q);
        }
        let power = (slope - 2.0 * m * from.abs()) / HW_EXPONENT * power_near_one(by);
        let minor = m * q.abs();
        (power * q + minor * q, HW_EXPONENT * power + 2.0 * minor)
    }
}

/// Share of a flow within which [`power_near_one`] is exact to the last bits.
const NEAR: f64 = 1.0 / 32.0;

/// (1 + by)^0.852, the power of a pipe's resistance, by the binomial series to the seventh power: what is
/// left out is below 3e-15 for `by` up to [`NEAR`].
fn power_near_one(by: f64) -> f64 {
    const N: f64 = HW_EXPONENT - 1.0;
    const C: [f64; 8] = {
        let mut c = [1.0; 8];
        let mut k = 1;
        while k < 8 {
            c[k] = c[k - 1] * (N - k as f64 + 1.0) / k as f64;
            k += 1;
        }
        c
    };
    // In pairs, which wait less for one another than one long chain would.
    let square = by * by;
    let low = (C[0] + C[1] * by) + square * (C[2] + C[3] * by);
    let high = (C[4] + C[5] * by) + square * (C[6] + C[7] * by);
    low + square * square * high
}

/// Pressure, kPa, below which an emitter's flow goes straight to zero.
const STRAIGHT_BELOW: f64 = 0.05;

/// An emitter as the solver sees it: h(q) = at (q / flow)^(1/x) up to `limit`, flat above.
#[derive(Debug, Clone, Copy)]
pub(super) struct EmitterLaw {
    flow: f64,
    at: f64,
    exponent: f64,
    inverse: f64,
    /// One over `flow`.
    per_flow: f64,
    /// The straight line near zero: its end, L/min, and its slope.
    line: (f64, f64),
    /// Pressure from which the flow rises no more.
    pub(super) limit: f64,
    /// The flow from there up.
    pub(super) most: f64,
    /// Pressure at the nozzle at the most: what a body regulator holds.
    pub(super) held: Pressure,
}

impl EmitterLaw {
    pub(super) fn of(emission: &Emission) -> Self {
        let (flow, at, exponent, limit) = match *emission {
            Emission::Orifice { flow, at_pressure, exponent, regulator } => {
                let limit = regulator.map_or(f64::INFINITY, Pressure::kpa);
                (flow.lpm(), at_pressure.kpa(), exponent, limit)
            }
            Emission::Compensating { flow, min } => (flow.lpm(), min.kpa(), 0.5, min.kpa()),
        };
        let most = if limit.is_finite() { flow * power(limit / at, exponent) } else { f64::INFINITY };
        let p = STRAIGHT_BELOW.min(limit / 2.0);
        let end = flow * power(p / at, exponent);
        Self {
            flow,
            at,
            exponent,
            inverse: 1.0 / exponent,
            per_flow: 1.0 / flow,
            line: (end, end / p),
            limit,
            most,
            held: match emission {
                Emission::Orifice { regulator: Some(set), .. } => *set,
                _ => Pressure::from_kpa(f64::INFINITY),
            },
        }
    }

    /// Can be computed with.
    pub(super) fn is_sound(&self) -> bool {
        let (h, rise) = self.at(1.0);
        h.is_finite() && rise.is_finite() && h > 0.0 && self.nominal() > 0.0 && self.limit > 0.0
    }

    /// Pressure wanted at a flow, and how much the flow rises by pressure there.
    pub(super) fn at(&self, q: f64) -> (f64, f64) {
        let q = q.max(self.flow * 1e-7);
        let h = self.at * power(q * self.per_flow, self.inverse);
        (h, (self.exponent * q / h).min(1e9))
    }

    /// Flow below which the law is a straight line through zero, and its slope in L/min per kPa:
    /// the slope of a root at zero has no end, and heads at the edge of running dry would make the
    /// iteration jump to and fro. The line spans [`STRAIGHT_BELOW`], a hundredth of a psi.
    pub(super) fn straight(&self) -> (f64, f64) {
        self.line
    }

    /// The flow at a pressure.
    pub(super) fn flow_at(&self, p: f64) -> f64 {
        let (least, slope) = self.straight();
        if p <= 0.0 {
            0.0
        } else if p * slope < least {
            p * slope
        } else {
            self.flow * power(p.min(self.limit) / self.at, self.exponent)
        }
    }

    /// The flow wanted at the nominal pressure: where the iteration starts.
    pub(super) fn nominal(&self) -> f64 {
        self.flow.min(self.most)
    }
}

/// Laws of pipes of the same bore, which come in runs: what the bore makes of a metre is worked out once.
#[derive(Default)]
pub(super) struct Bores {
    inside: f64,
    c: f64,
    metre: f64,
    minor: f64,
    speed: f64,
}

impl Bores {
    pub(super) fn law_of<'a>(&mut self, kind: &'a LinkKind) -> Law<'a> {
        let LinkKind::Pipe { length, inside, roughness_c, minor_loss_k, .. } = kind else {
            return Law::of_link(kind);
        };
        if (self.inside, self.c) != (inside.m(), *roughness_c) {
            (self.inside, self.c) = (inside.m(), *roughness_c);
            self.metre = pipe_factor(1.0, self.inside, self.c);
            self.minor = minor_factor(self.inside);
            self.speed = speed_factor(*inside);
        }
        Law::Pipe { r: self.metre * length.m(), m: self.minor * minor_loss_k, speed: self.speed }
    }
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
            Self::Measured { static_pressure, drop, at_flow, exponent } => {
                Self::Measured { static_pressure: static_pressure + by, drop, at_flow, exponent }
            }
            Self::Curve(curve) => Self::Curve(curve.raised(by.kpa())),
        }
    }
}

impl Loss {
    /// The same with so much more at every flow.
    #[must_use]
    pub fn with_more(&self, more: Pressure) -> Self {
        match self.clone() {
            Self::Power { fixed, drop, at_flow, exponent } => {
                Self::Power { fixed: fixed + more, drop, at_flow, exponent }
            }
            Self::Curve(curve) => Self::Curve(curve.raised(more.kpa())),
        }
    }

    /// Pressure spent at a flow of zero or more.
    pub fn at(&self, flow: Flow) -> Pressure {
        Pressure::from_kpa(Law::of_loss(self).at(flow.lpm()).0)
    }
}
