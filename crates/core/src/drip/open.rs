use crate::network::{Emission, hazen_williams};
use crate::units::{Flow, Length, Pressure, Speed};

/// K of an open tube: what enters and what leaves it keeps its speed.
const OPEN_K: f64 = 1.5;
/// kg/m3.
const WATER: f64 = 1000.0;

/// Free outflow from a bore: p = K rho v2 / 2 with K 1.5 for entry and exit.
pub fn open_end(inside: Length) -> Emission {
    let at_pressure = Pressure::from_kpa(1.0);
    let speed = (2.0 * at_pressure.kpa() * 1000.0 / (OPEN_K * WATER)).sqrt();
    Emission::Orifice {
        flow: Flow::at_speed(inside, Speed::from_mps(speed)),
        at_pressure,
        exponent: 0.5,
        regulator: None,
    }
}

/// What an open micro tube gives at a pressure: the flow whose friction and outflow together cost it.
///
/// # Example
/// 5 ft of 0.170 in at 20 psi: about 1.15 gpm (a test holds it).
pub fn open_tube(length: Length, inside: Length, c: f64, pressure: Pressure) -> Flow {
    let end = open_end(inside);
    let (mut low, mut high) = (Flow::ZERO, end.flow_at(pressure));
    for _ in 0..60 {
        let q = (low + high) * 0.5;
        let left = pressure - hazen_williams(q, length, inside, c);
        if end.flow_at(left) >= q {
            low = q;
        } else {
            high = q;
        }
    }
    low
}
