use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// A smooth curve through points, monotone wherever the points are.
///
/// Below the first point the curve keeps the first value (a spring-loaded device costs its least
/// pressure at any small flow). Above the last it goes on as the square of the flow for a rising
/// curve and along its last slope for a falling one.
///
/// # Source
/// Fritsch, F. N. and Carlson, R. E. (1980), "Monotone piecewise cubic interpolation",
/// SIAM J. Numer. Anal. 17(2), with the harmonic-mean slopes of Fritsch and Butland (1984).
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Curve {
    x: Vec<f64>,
    y: Vec<f64>,
    slope: Vec<f64>,
}

/// Why points make no curve.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum CurveError {
    /// Fewer points than a curve needs.
    #[error("needs at least 2 points")]
    TooFew,
    /// The flows must rise from point to point.
    #[error("point {0}: flow must be zero or more and increase")]
    FlowsNotRising(usize),
    /// The values must all go one way.
    #[error("point {0}: pressure must be zero or more and only rise or only fall")]
    NotMonotone(usize),
}

impl Curve {
    /// A curve through `(flow, value)` points: two or more, flows from zero up and rising, values going one
    /// way, both in the unit of whoever made it. Monotone between them, by piecewise cubics.
    ///
    /// # Source
    /// Fritsch and Carlson (1980), slopes by Fritsch and Butland (1984).
    ///
    /// # Errors
    /// The number of the first point (from 1) that breaks the order.
    pub fn through(points: &[(f64, f64)]) -> Result<Self, CurveError> {
        if points.len() < 2 {
            return Err(CurveError::TooFew);
        }
        let falling = points[points.len() - 1].1 < points[0].1;
        for (i, &(x, y)) in points.iter().enumerate() {
            if !x.is_finite() || x < 0.0 || (i > 0 && x <= points[i - 1].0) {
                return Err(CurveError::FlowsNotRising(i + 1));
            }
            let turns = i > 0 && if falling { y > points[i - 1].1 } else { y < points[i - 1].1 };
            if !y.is_finite() || y < 0.0 || turns {
                return Err(CurveError::NotMonotone(i + 1));
            }
        }
        let (x, y): (Vec<_>, Vec<_>) = points.iter().copied().unzip();
        let secant: Vec<f64> = (1..x.len()).map(|i| (y[i] - y[i - 1]) / (x[i] - x[i - 1])).collect();
        let last = secant.len() - 1;
        let slope = (0..x.len())
            .map(|i| match i {
                0 => secant[0],
                i if i > last => secant[last],
                i if secant[i - 1] * secant[i] <= 0.0 => 0.0,
                i => 2.0 / (1.0 / secant[i - 1] + 1.0 / secant[i]),
            })
            .collect();
        Ok(Self { x, y, slope })
    }

    /// The same curve with so much more at every flow.
    #[must_use]
    pub fn raised(&self, by: f64) -> Self {
        Self { y: self.y.iter().map(|y| y + by).collect(), ..self.clone() }
    }

    /// Value and slope at a flow of zero or more.
    pub fn at(&self, q: f64) -> (f64, f64) {
        let n = self.x.len();
        let (first, last) = (self.x[0], self.x[n - 1]);
        if q <= first {
            return (self.y[0], 0.0);
        }
        if q >= last {
            let (y, falling) = (self.y[n - 1], self.y[n - 1] < self.y[0]);
            return if falling {
                (y + self.slope[n - 1] * (q - last), self.slope[n - 1])
            } else {
                let r = q / last;
                (y * r * r, 2.0 * y * r / last)
            };
        }
        let i = self.x.partition_point(|&x| x <= q) - 1;
        let width = self.x[i + 1] - self.x[i];
        let t = (q - self.x[i]) / width;
        let (y0, y1) = (self.y[i], self.y[i + 1]);
        let (m0, m1) = (self.slope[i] * width, self.slope[i + 1] * width);
        let (t2, t3) = (t * t, t * t * t);
        let value = y0 * (2.0 * t3 - 3.0 * t2 + 1.0)
            + m0 * (t3 - 2.0 * t2 + t)
            + y1 * (3.0 * t2 - 2.0 * t3)
            + m1 * (t3 - t2);
        let slope =
            ((y1 - y0) * (6.0 * t - 6.0 * t2) + m0 * (3.0 * t2 - 4.0 * t + 1.0) + m1 * (3.0 * t2 - 2.0 * t))
                / width;
        (value, slope)
    }

    /// The points it goes through.
    pub fn points(&self) -> impl Iterator<Item = (f64, f64)> + '_ {
        self.x.iter().copied().zip(self.y.iter().copied())
    }

    /// The greatest flow that was given.
    pub fn last_flow(&self) -> f64 {
        self.x[self.x.len() - 1]
    }
}
