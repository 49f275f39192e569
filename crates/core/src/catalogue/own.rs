use super::{ArcRule, Catalogue, HeadClass, Kind, Nozzle};
use crate::units::{Flow, Length, Pressure};
use rust_decimal::Decimal;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// A nozzle of the house: rows as they stand in a maker's chart.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct OwnNozzle {
    /// Stable name in the file; none of the built-in ones.
    pub id: String,
    /// For people.
    pub label: String,
    /// Which kind of head it makes.
    pub kind: Kind,
    /// Rows of the chart, at least one.
    pub chart: Vec<ChartRow>,
    /// What one costs, in the currency of the house.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(with = "Option<String>")]
    pub price: Option<Decimal>,
}

/// A row of a chart.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct ChartRow {
    /// At the nozzle.
    pub pressure: Pressure,
    /// Degrees.
    pub arc: u16,
    /// How far it throws.
    pub radius: Length,
    /// What it gives.
    pub flow: Flow,
}

/// The law q = k p^x that fits a chart best.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Fit {
    /// Exponent of the pressure.
    pub exponent: f64,
    /// Flow of the full circle (or of any arc) at nominal pressure.
    pub flow: Flow,
    /// Throw at nominal pressure.
    pub radius: Length,
    /// How the flow goes with the arc.
    pub arc_rule: ArcRule,
    /// Furthest that a row's flow lies from the law, as a share.
    pub flow_off: f64,
    /// Furthest that a row's throw lies from the law, as a share.
    pub radius_off: f64,
    /// Pressures of the chart, lowest and highest.
    pub pressures: (Pressure, Pressure),
}

impl OwnNozzle {
    /// Flow over pressure by least squares on the logarithms, all arcs brought to one by their rule.
    /// With a single pressure the exponent is the kind's. None without sound rows.
    pub fn fit(&self, kind: &HeadClass) -> Option<Fit> {
        let sound = |r: &&ChartRow| {
            r.pressure.kpa() > 0.0 && r.flow.lpm() > 0.0 && r.radius.m() > 0.0 && (1..=360).contains(&r.arc)
        };
        let rows: Vec<&ChartRow> = self.chart.iter().filter(sound).collect();
        if rows.is_empty() {
            return None;
        }
        let arc_rule = self.arc_rule(&rows, kind);
        // As a full circle where the flow goes with the arc.
        let whole = |r: &ChartRow| {
            r.flow.lpm() * if arc_rule == ArcRule::Proportional { 360.0 / f64::from(r.arc) } else { 1.0 }
        };
        let points: Vec<(f64, f64)> =
            rows.iter().map(|r| ((r.pressure / kind.nominal).ln(), whole(r).ln())).collect();
        let n = points.len() as f64;
        let (mx, my) =
            (points.iter().map(|p| p.0).sum::<f64>() / n, points.iter().map(|p| p.1).sum::<f64>() / n);
        let (sxx, sxy) =
            points.iter().fold((0.0, 0.0), |(a, b), p| (a + (p.0 - mx).powi(2), b + (p.0 - mx) * (p.1 - my)));
        let exponent = if sxx > 1e-6 { sxy / sxx } else { kind.exponent };
        let flow = (my - exponent * mx).exp();
        let flow_off = points
            .iter()
            .map(|p| (p.1 - flow.ln() - exponent * p.0).exp() - 1.0)
            .map(f64::abs)
            .fold(0.0, f64::max);
        // Throw at nominal: each row brought there by the law that throws are computed with.
        let law = |p: Pressure| {
            let share = (p / kind.nominal).max(0.0).powf(super::THROW_EXPONENT);
            if share > 1.0 { share.min(1.03) } else { share }
        };
        let radius = rows.iter().map(|r| r.radius.m() / law(r.pressure)).sum::<f64>() / n;
        let radius_off =
            rows.iter().map(|r| (radius * law(r.pressure) / r.radius.m() - 1.0).abs()).fold(0.0, f64::max);
        let low = rows.iter().map(|r| r.pressure).reduce(Pressure::min)?;
        let high = rows.iter().map(|r| r.pressure).reduce(Pressure::max)?;
        Some(Fit {
            exponent,
            flow: Flow::from_lpm(flow),
            radius: Length::from_m(radius),
            arc_rule,
            flow_off,
            radius_off,
            pressures: (low, high),
        })
    }

    /// In proportion where the rows of one pressure say so; the same for any arc where they say that;
    /// as the kind does where there is one arc only.
    fn arc_rule(&self, rows: &[&ChartRow], kind: &HeadClass) -> ArcRule {
        let by_kind = match kind.kind {
            Kind::Spray | Kind::Rotator | Kind::RotatorShort => ArcRule::Proportional,
            _ => ArcRule::Any,
        };
        let pairs = rows
            .iter()
            .flat_map(|a| rows.iter().map(move |b| (a, b)))
            .filter(|(a, b)| a.arc < b.arc && (a.pressure / b.pressure - 1.0).abs() < 0.02);
        let votes: Vec<f64> =
            pairs.map(|(a, b)| (b.flow / a.flow).ln() / (f64::from(b.arc) / f64::from(a.arc)).ln()).collect();
        if votes.is_empty() {
            return by_kind;
        }
        // 1: in proportion; 0: the same.
        if votes.iter().sum::<f64>() / votes.len() as f64 > 0.5 {
            ArcRule::Proportional
        } else {
            ArcRule::Any
        }
    }

    /// The nozzle that it is computed as.
    pub fn nozzle(&self, catalogue: &Catalogue) -> Option<Nozzle> {
        let kind = catalogue.classes.iter().find(|k| k.kind == self.kind)?;
        let fit = self.fit(kind)?;
        let arcs = if fit.arc_rule == ArcRule::Proportional { (45, 360) } else { (40, 360) };
        Some(Nozzle {
            id: self.id.clone(),
            kind: self.kind,
            label: self.label.clone(),
            radius: Some(fit.radius),
            least_radius: None,
            flow: fit.flow,
            arc_rule: fit.arc_rule,
            arcs,
            pattern: None,
            favourite: false,
            exponent: Some(fit.exponent),
            tube: None,
        })
    }
}
