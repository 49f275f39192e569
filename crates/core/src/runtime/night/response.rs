//! What a zone takes and what its worst head keeps, by the pressure at the connection: tabled once for each
//! zone, so that most questions of who may run together need no solving.

use super::aim::{aim_of, wanted};
use crate::chain::Chain;
use crate::network::SourceLaw;
use crate::units::{Flow, Pressure};
use crate::water::{SupplyCurve, SupplyPoint};
use crate::zone::{ZoneAssessment, ZoneInputs, assess_zone};
use std::sync::Arc;

/// Tables are read between their rows to within so much; nearer to nothing a set is solved.
pub(super) const SURE: Pressure = Pressure::from_kpa(5.0);
/// Rows of a table, and the share of the pressure alone that the lowest has.
const ROWS: usize = 12;
const LOWEST: f64 = 0.4;

/// Rows by falling pressure: at the connection, what the zone takes, what its worst head has over its aim.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct Response(Vec<(f64, f64, f64)>);

impl Response {
    /// Of a zone that is solved alone; none where it has no aim, or can't be solved at less.
    pub fn of(inputs: &ZoneInputs, zone: &ZoneAssessment) -> Option<Self> {
        let aim = aim_of(zone)?;
        let top = zone.at_connection.kpa();
        let margin = |zone: &ZoneAssessment| {
            let each = zone.heads.iter().map(|h| (h.nozzle - wanted(aim, h)).kpa());
            each.fold(f64::MAX, f64::min)
        };
        let mut rows = vec![(top, zone.flow.lpm(), margin(zone))];
        let mut lower = inputs.clone();
        for i in 1..ROWS {
            let share = 1.0 - (1.0 - LOWEST) * i as f64 / (ROWS - 1) as f64;
            let pressure = Pressure::from_kpa(top * share);
            lower.point = Arc::new(SupplyPoint {
                curve: SupplyCurve {
                    law: SourceLaw::Measured {
                        static_pressure: pressure,
                        drop: Pressure::ZERO,
                        at_flow: Flow::from_lpm(1.0),
                        exponent: 1.0,
                    },
                    ..inputs.point.curve.clone()
                },
                chain: Chain(Vec::new()),
            });
            let zone = assess_zone(&lower).ok()?;
            rows.push((pressure.kpa(), zone.flow.lpm(), margin(&zone)));
            if rows[rows.len() - 1].2 < -4.0 * SURE.kpa() {
                break;
            }
        }
        Some(Self(rows))
    }

    /// Flow and margin at a pressure, between the rows; beyond them none.
    fn at(&self, pressure: f64) -> Option<(f64, f64)> {
        let rows = &self.0;
        if pressure >= rows[0].0 {
            return Some((rows[0].1, rows[0].2));
        }
        let low = rows.iter().position(|r| r.0 <= pressure)?;
        let ((p1, q1, m1), (p0, q0, m0)) = (rows[low], rows[low - 1]);
        let share = (pressure - p1) / (p0 - p1);
        Some((q1 + (q0 - q1) * share, m1 + (m0 - m1) * share))
    }
}

/// The least margin of zones that hang on one connection each by itself: the pressure at which all that they
/// take leaves just that. None past the tables: then at least one is far under its aim or has no table so
/// low.
pub(super) fn balance(point: &SupplyPoint, zones: &[&Response]) -> Option<Pressure> {
    let far = Pressure::from_kpa(-4.0 * SURE.kpa());
    let floor = zones.iter().map(|z| z.0[z.0.len() - 1].0).fold(0.0, f64::max);
    let top = zones.iter().map(|z| z.0[0].0).fold(f64::MAX, f64::min);
    let left = |pressure: f64| -> Option<f64> {
        let flow: f64 = zones.iter().map(|z| z.at(pressure).map(|r| r.0)).sum::<Option<f64>>()?;
        Some(point.at_connection(Flow::from_lpm(flow)).kpa() - pressure)
    };
    let (mut low, mut high) = (floor, top);
    if left(low)? < 0.0 {
        // Under the lowest row of one: where that row is far under its aim so is the balance.
        let certain = zones.iter().any(|z| {
            let last = z.0[z.0.len() - 1];
            last.0 == floor && last.2 <= far.kpa()
        });
        return certain.then_some(far);
    }
    if left(high)? < 0.0 {
        for _ in 0..14 {
            let middle = (low + high) / 2.0;
            if left(middle)? > 0.0 {
                low = middle;
            } else {
                high = middle;
            }
        }
    } else {
        low = high;
    }
    let margins = zones.iter().map(|z| z.at(low).map(|r| r.1));
    let least = margins.collect::<Option<Vec<f64>>>()?.into_iter().fold(f64::MAX, f64::min);
    Some(Pressure::from_kpa(least))
}
