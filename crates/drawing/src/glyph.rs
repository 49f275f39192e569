//! Small glyphs: flow against design flow, pressure over the nozzle's band, the valve's badge.

use crate::colour;
use crate::svg::{Anchor, Svg, Type};
use fenlo_core::catalogue::PressureBand;
use fenlo_core::units::{Flow, Pressure, UnitSystem};
use fenlo_core::zone::{HeadState, ZoneAssessment};

pub(crate) fn zone_colour(number: usize) -> &'static str {
    colour::ZONES[(number + colour::ZONES.len() - 1) % colour::ZONES.len()]
}

/// What a flow bar shows.
#[derive(Debug, Clone, Copy)]
pub struct FlowBar {
    /// Flow of the zone.
    pub flow: Flow,
    /// The mark to stay left of.
    pub design: Option<Flow>,
    /// The checks say that it is too much.
    pub over: bool,
    /// The valve's number.
    pub number: usize,
}

/// A bar for the flow, with the mark of the design flow.
pub fn flow_bar(bar: FlowBar, units: UnitSystem) -> String {
    let (w, h) = (160.0, 16.0);
    let design = bar.design.unwrap_or(bar.flow);
    let full = bar.flow.max(design).lpm().max(1e-6) * 1.12;
    let title = match bar.design {
        Some(d) => format!("{} of {} design flow", bar.flow.show(units), d.show(units)),
        None => bar.flow.show(units),
    };
    let mut svg = Svg::new(w, h, "flow-bar", &title);
    svg.rect(0.0, 2.0, w, 12.0, colour::TROUGH);
    let end = bar.flow.lpm() / full * w;
    svg.rect(0.0, 2.0, end, 12.0, if bar.over { colour::STOP } else { zone_colour(bar.number) });
    // Stripes whose slope goes with the number: told apart in black and white.
    let step = 5.0 + (bar.number % 4) as f64 * 3.0;
    let mut x = step;
    while x < end - 2.0 {
        svg.line((x, 2.0), (x - (bar.number % 3) as f64 * 4.0, 14.0), colour::WHITE, 0.6, false);
        x += step;
    }
    if bar.design.is_some() {
        let x = design.lpm() / full * w;
        svg.line((x, 0.0), (x, h), colour::INK, 2.0, false);
    }
    svg.finish()
}

/// What a glyph of pressures shows.
#[derive(Debug, Clone, Copy)]
pub struct PressureBar {
    /// At the lowest head.
    pub low: Pressure,
    /// At the highest.
    pub high: Pressure,
    /// What the lowest is made for.
    pub band: PressureBand,
    /// A head starves.
    pub starved: bool,
    /// A head gets more than it is made for.
    pub over: bool,
}

impl PressureBar {
    /// Of a zone, with the checks' own verdict over its heads.
    pub fn of(zone: &ZoneAssessment) -> Self {
        let (low, high) = (zone.lowest(), zone.highest());
        Self {
            low: low.nozzle,
            high: high.highest,
            band: low.band,
            starved: zone.starved().is_some(),
            over: zone.heads.iter().any(|h| h.state() == HeadState::Over),
        }
    }
}

/// From the lowest to the highest head over the usable band, with a tick at the best.
pub fn pressure_glyph(bar: PressureBar, units: UnitSystem) -> String {
    let PressureBar { low, high, .. } = bar;
    let PressureBand { best: nominal, least, most } = bar.band;
    let (w, h) = (160.0, 16.0);
    let start = (least * 0.6).min(low * 0.95).kpa().max(0.0);
    let end = (most * 1.2).max(high * 1.05).kpa();
    let x = |p: Pressure| 4.0 + (p.kpa().max(0.0) - start) / (end - start).max(1e-6) * (w - 8.0);
    let title = format!(
        "{} to {} at the heads; range {} to {}, rated {}",
        low.number(units),
        high.show(units),
        least.number(units),
        most.show(units),
        nominal.show(units)
    );
    let mut svg = Svg::new(w, h, "pressure-glyph", &title);
    svg.rect(x(least), 2.0, x(most) - x(least), 12.0, colour::OK_THIN);
    svg.line((x(nominal), 1.0), (x(nominal), 15.0), colour::OK, 2.0, false);
    let ink = |wrong: bool| if wrong { colour::STOP } else { colour::INK };
    svg.line((x(low), 8.0), (x(high), 8.0), colour::INK, 2.5, false);
    svg.circle((x(low), 8.0), 3.5, ink(bar.starved), ink(bar.starved));
    svg.circle((x(high), 8.0), 3.5, ink(bar.over), ink(bar.over));
    svg.finish()
}

/// The number of a valve in its colour.
pub fn valve_badge(number: usize) -> String {
    let mut svg = Svg::new(26.0, 26.0, "badge-valve", &format!("Valve {number}"));
    svg.circle((13.0, 13.0), 12.0, zone_colour(number), zone_colour(number));
    let size = if number > 99 { 10.0 } else { 13.0 };
    svg.text(
        (13.0, 17.5),
        Anchor::Middle,
        Type { size, bold: true, fill: colour::WHITE },
        &number.to_string(),
    );
    svg.finish()
}
