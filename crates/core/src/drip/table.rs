use super::lay::tube_of;
use super::longest::{LongestRow, RowAsk, longest_row};
use crate::catalogue::{Catalogue, Kind, Nozzle};
use crate::units::{Length, Pressure};

/// Flow that an emitter which does not compensate may be low by, as a share of its pressure: 0.9 squared.
const TEN_PERCENT_LOW: f64 = 0.81;
/// Least pressure of compensating emitters, typical for this type, psi.
const COMPENSATES_FROM_PSI: f64 = 8.5;

/// Longest rows of a product by inlet pressure and spacing.
#[derive(Debug, Clone, PartialEq)]
pub struct RowTable {
    /// Spacings of emitters.
    pub spacings: Vec<Length>,
    /// Slopes, rise over length.
    pub slopes: [f64; 3],
    /// By inlet pressure: for each spacing a row on each slope.
    pub rows: Vec<(Pressure, Vec<[LongestRow; 3]>)>,
}

/// How a row of a product is asked for: its tube, its emitter, its least pressure at an inlet pressure.
pub fn row_ask(catalogue: &Catalogue, nozzle: &Nozzle, inlet: Pressure, spacing: Length) -> Option<RowAsk> {
    let class = catalogue.class(nozzle.kind);
    let tube = catalogue.pipe(&tube_of(catalogue, nozzle))?;
    let compensating = nozzle.exponent_with(class) == 0.0;
    Some(RowAsk {
        inlet,
        emission: nozzle.emission(class, (360, None), None),
        spacing,
        inside: tube.inside,
        c: tube.c,
        slope: 0.0,
        least: if compensating { Pressure::from_psi(COMPENSATES_FROM_PSI) } else { inlet * TEN_PERCENT_LOW },
        most: class.high.max(inlet),
    })
}

/// Longest rows of dripline or tape on level ground, 3 % down and 3 % up. None for what has no rows.
pub fn row_table(catalogue: &Catalogue, nozzle: &Nozzle) -> Option<RowTable> {
    let (inlets, spacings): (&[f64], &[f64]) = match nozzle.kind {
        Kind::Dripline if nozzle.tube.is_some() => (&[15.0, 20.0, 25.0], &[6.0, 9.0, 12.0]),
        Kind::Dripline => (&[15.0, 20.0, 25.0, 30.0, 40.0], &[9.0, 12.0, 18.0, 24.0]),
        Kind::Tape => (&[8.0, 10.0, 12.0, 15.0], &[6.0, 8.0, 12.0]),
        _ => return None,
    };
    let spacings: Vec<Length> = spacings.iter().map(|i| Length::from_in(*i)).collect();
    let slopes = [0.0, -0.03, 0.03];
    let rows = inlets.iter().map(|psi| {
        let inlet = Pressure::from_psi(*psi);
        let of = |spacing: &Length| {
            let ask = row_ask(catalogue, nozzle, inlet, *spacing)?;
            Some(slopes.map(|slope| longest_row(&RowAsk { slope, ..ask })))
        };
        Some((inlet, spacings.iter().map(of).collect::<Option<Vec<_>>>()?))
    });
    let rows = rows.collect::<Option<Vec<_>>>()?;
    Some(RowTable { spacings, slopes, rows })
}
