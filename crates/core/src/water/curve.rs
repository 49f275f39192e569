use super::visit::{FlowTest, flow_tests};
use crate::network::{Curve, CurveError, SourceLaw};
use crate::plan::{ReadingKind, Supply, WaterSource};
use crate::units::{Flow, Length, Pressure};

/// Hazen-Williams exponent, as in the usual flow-test form.
pub const FLOW_TEST_EXPONENT: f64 = 1.852;

/// Pressure by flow at the place of the readings, brought to the height of the point of connection.
#[derive(Debug, Clone, PartialEq)]
pub struct SupplyCurve {
    /// With nothing running: the lowest static reading, cut-in, or shut-off pressure.
    pub static_pressure: Pressure,
    /// The most that may stand there: the highest static reading, cut-out, or shut-off pressure.
    pub highest: Pressure,
    /// The curve as the solver takes it.
    pub law: SourceLaw,
    /// Largest difference between a reading and the curve.
    pub residual: Pressure,
    /// Pairs of flow and pressure it was fitted to: of a street main what each flow cost in its own
    /// visit, taken off the lowest static.
    pub pairs: Vec<(Flow, Pressure)>,
    /// Readings with water running as the gauge showed them, each with its visit's static.
    pub tests: Vec<FlowTest>,
    /// Flow that must not be exceeded for long, where the source has one (pump, well).
    pub most: Option<Flow>,
    /// How it came about.
    pub from: CurveFrom,
}

/// What a supply curve was made of.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum CurveFrom {
    /// Readings of a gauge that stood so high over the point of connection.
    Readings {
        /// Negative below it.
        gauge_height: Length,
    },
    /// Points of a pump's curve.
    Pump,
    /// Water that stands so high over the outlet.
    Tank {
        /// At its lowest.
        height: Length,
    },
    /// The pressure switch of a well's tank.
    Well {
        /// The pump starts.
        cut_in: Pressure,
        /// The pump stops.
        cut_out: Pressure,
    },
}

impl SupplyCurve {
    /// It says of itself how pressure falls with flow, or what the source gives at most. Where it does not, as a static
    /// reading alone or a tank, only the parts behind it do.
    pub fn falls(&self) -> bool {
        match self.from {
            CurveFrom::Readings { .. } => !self.pairs.is_empty(),
            CurveFrom::Tank { .. } => false,
            CurveFrom::Pump | CurveFrom::Well { .. } => true,
        }
    }

    /// Pressure left at a flow; below zero past the end of the curve.
    pub fn pressure_at(&self, flow: Flow) -> Pressure {
        match &self.law {
            SourceLaw::Measured { static_pressure, drop, at_flow, exponent } => {
                *static_pressure - *drop * (flow / *at_flow).powf(*exponent)
            }
            SourceLaw::Curve(curve) => Pressure::from_kpa(curve.at(flow.lpm()).0),
        }
    }
}

/// Why readings make no curve.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum CurveFault {
    /// Nothing was measured.
    #[error("no static pressure yet")]
    NoStatic,
    /// More pressure with water running than without.
    #[error("pressure rises with flow")]
    Rises {
        /// What ran.
        flow: Flow,
        /// What the gauge showed then.
        pressure: Pressure,
        /// What it showed with nothing running.
        static_pressure: Pressure,
    },
    /// Of two pairs the one with more flow has more pressure.
    #[error("pressure rises with flow between two readings")]
    NotFalling {
        /// The pair with less flow.
        low: (Flow, Pressure),
        /// The pair with more.
        high: (Flow, Pressure),
    },
    /// The pump's points make no curve.
    #[error("the pump's curve: {0}")]
    Pump(CurveError),
}

/// The supply curve of a point of connection.
///
/// p(q) = p0 - K q^1.852 with the lowest static reading as p0; K by least squares over the drops of
/// the running readings, each from the static of its own visit: K = sum(drop q^1.852) / sum(q^3.704).
/// Without pairs K = 0: the parts of the chain make the curve. Of a tap a timed bucket is a pair: wide open it spends
/// all of its pressure. Where a gauge was read there too, of the two that counts which leaves less: what a gauge
/// beside the tap shows has not come through it.
///
/// # Errors
/// [`CurveFault`]: no static reading, or readings whose pressure rises with flow.
///
/// # Source
/// The flow-test form of AWWA M17 and NFPA 291: q2 = q1 ((p0 - p2) / (p0 - p1))^0.54.
pub fn supply_curve(supply: &Supply) -> Result<SupplyCurve, CurveFault> {
    match &supply.water {
        WaterSource::Street | WaterSource::Tap => mains(supply),
        WaterSource::Pump { curve, .. } => {
            let points: Vec<(f64, f64)> = curve.iter().map(|p| (p.flow.lpm(), p.pressure.kpa())).collect();
            let curve = Curve::through(&points).map_err(CurveFault::Pump)?;
            Ok(SupplyCurve {
                static_pressure: Pressure::from_kpa(curve.at(0.0).0),
                highest: Pressure::from_kpa(curve.at(0.0).0),
                most: Some(Flow::from_lpm(curve.last_flow())),
                law: SourceLaw::Curve(curve),
                residual: Pressure::ZERO,
                pairs: points.iter().map(|&(q, p)| (Flow::from_lpm(q), Pressure::from_kpa(p))).collect(),
                tests: Vec::new(),
                from: CurveFrom::Pump,
            })
        }
        WaterSource::Tank { height } => {
            let pressure = Pressure::of_height(*height);
            Ok(SupplyCurve {
                static_pressure: pressure,
                highest: pressure,
                law: flat(pressure),
                residual: Pressure::ZERO,
                pairs: Vec::new(),
                tests: Vec::new(),
                most: None,
                from: CurveFrom::Tank { height: *height },
            })
        }
        WaterSource::Well { cut_in, cut_out, pump_flow, .. } => Ok(SupplyCurve {
            static_pressure: *cut_in,
            highest: *cut_out,
            law: flat(*cut_in),
            residual: Pressure::ZERO,
            pairs: Vec::new(),
            tests: Vec::new(),
            most: Some(*pump_flow),
            from: CurveFrom::Well { cut_in: *cut_in, cut_out: *cut_out },
        }),
    }
}

fn flat(pressure: Pressure) -> SourceLaw {
    SourceLaw::Measured {
        static_pressure: pressure,
        drop: Pressure::ZERO,
        at_flow: Flow::from_lpm(1.0),
        exponent: FLOW_TEST_EXPONENT,
    }
}

fn mains(supply: &Supply) -> Result<SupplyCurve, CurveFault> {
    // A gauge above the point of connection shows less than is there.
    let lift = Pressure::of_height(supply.gauge_height);
    let statics = || {
        supply.readings.iter().filter_map(|r| match r.kind {
            ReadingKind::Static { pressure } => Some(pressure + lift),
            _ => None,
        })
    };
    let p0 = statics().reduce(Pressure::min).ok_or(CurveFault::NoStatic)?;
    let highest = statics().fold(p0, Pressure::max);
    let tests = flow_tests(supply);
    if let Some(t) = tests.iter().find(|t| t.drop() < Pressure::ZERO) {
        return Err(CurveFault::Rises {
            flow: t.flow,
            pressure: t.pressure,
            static_pressure: t.static_pressure,
        });
    }
    // Only what the water cost is carried over to the hour of the lowest static.
    let mut pairs: Vec<(Flow, Pressure)> = tests.iter().map(|t| (t.flow, p0 - t.drop())).collect();
    pairs.sort_by(|a, b| a.0.lpm().total_cmp(&b.0.lpm()));
    if let Some(w) = pairs.windows(2).find(|w| w[1].0 > w[0].0 && w[1].1 > w[0].1) {
        let shown = |(q, p): (Flow, Pressure)| (q, p - lift);
        return Err(CurveFault::NotFalling { low: shown(w[0]), high: shown(w[1]) });
    }
    let from = CurveFrom::Readings { gauge_height: supply.gauge_height };
    if pairs.is_empty() {
        return Ok(SupplyCurve {
            static_pressure: p0,
            highest,
            law: flat(p0),
            residual: Pressure::ZERO,
            pairs,
            tests,
            most: None,
            from,
        });
    }
    let power = |q: Flow| q.lpm().powf(FLOW_TEST_EXPONENT);
    let fit = |of: &dyn Fn(&FlowTest) -> bool| {
        let tests = tests.iter().filter(|t| of(t));
        let sums = tests.map(|t| (t.drop().kpa() * power(t.flow), power(t.flow).powi(2)));
        let (top, bottom) = sums.fold((0.0, 0.0), |(a, b), s| (a + s.0, b + s.1));
        if bottom > 0.0 { top / bottom } else { 0.0 }
    };
    let open = |t: &FlowTest| t.pressure == Pressure::ZERO;
    let k = match supply.water {
        WaterSource::Tap => fit(&open).max(fit(&|t| !open(t))),
        _ => fit(&|_| true),
    };
    let at_flow = pairs[pairs.len() - 1].0;
    let drop = Pressure::from_kpa(k * power(at_flow));
    let residual = pairs
        .iter()
        .map(|(q, p)| (*p - (p0 - Pressure::from_kpa(k * power(*q)))).kpa().abs())
        .fold(0.0, f64::max);
    Ok(SupplyCurve {
        static_pressure: p0,
        highest,
        law: SourceLaw::Measured { static_pressure: p0, drop, at_flow, exponent: FLOW_TEST_EXPONENT },
        residual: Pressure::from_kpa(residual),
        pairs,
        tests,
        most: None,
        from,
    })
}
