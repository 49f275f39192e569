use crate::colour;
use crate::svg::{Anchor, Svg, Type, nice_step, tick};
use fenlo_core::units::{Flow, Pressure, UnitSystem};
use fenlo_core::water::SupplyCurve;

/// What the plot of the supply shows.
#[derive(Debug, Clone, Copy)]
pub struct CurveDrawing<'a> {
    /// At the place of the readings.
    pub curve: &'a SupplyCurve,
    /// At the end of the chain: flow and pressure, rising flows.
    pub connection: &'a [(Flow, Pressure)],
    /// The design flow.
    pub design: Option<Flow>,
    /// Units shown.
    pub units: UnitSystem,
}

/// Pressure by flow: at the gauge and at the end of the chain, with readings and design flow.
pub fn supply_curve(drawing: CurveDrawing<'_>) -> String {
    let units = drawing.units;
    let (width, height) = (640.0, 320.0);
    let (left, right, top, bottom) = (48.0, 18.0, 20.0, 44.0);
    let q = |f: Flow| if units.is_metric() { f.lpm() } else { f.gpm() };
    let p = |v: Pressure| v.value(units);
    let far = drawing
        .curve
        .pairs
        .iter()
        .map(|r| r.0)
        .chain(drawing.design.map(|d| d * 1.6))
        .fold(Flow::from_gpm(10.0), Flow::max);
    let (q_step, p_step) = (nice_step(q(far), 7.0), nice_step(p(drawing.curve.static_pressure), 6.0));
    let q_max = (q(far) / q_step).ceil() * q_step;
    let p_max = (p(drawing.curve.static_pressure) / p_step + 0.2).ceil() * p_step;
    let x = |f: f64| left + f / q_max * (width - left - right);
    let y = |v: f64| top + (1.0 - v.max(0.0) / p_max) * (height - top - bottom);
    let title = format!("Supply curve: static pressure {}", drawing.curve.static_pressure.show(units));
    let mut svg = Svg::new(width, height, "curve", &title);
    let small = Type { size: 12.0, bold: false, fill: colour::SOFT };
    let mut mark = 0.0;
    while mark <= p_max + 1e-9 {
        svg.line((left, y(mark)), (width - right, y(mark)), colour::LINE, 1.0, false);
        svg.text((left - 8.0, y(mark) + 4.0), Anchor::End, small, &tick(mark, p_step));
        mark += p_step;
    }
    mark = 0.0;
    while mark <= q_max + 1e-9 {
        svg.text((x(mark), height - bottom + 18.0), Anchor::Middle, small, &format!("{mark}"));
        mark += q_step;
    }
    svg.text((left - 8.0, 12.0), Anchor::End, small, Pressure::unit(units));
    svg.text((width - right, height - 8.0), Anchor::End, small, &format!("flow, {}", Flow::unit(units)));
    let sampled: Vec<(f64, f64)> = (0..=60)
        .map(|i| {
            let flow = far * (q_max / q(far)) * (f64::from(i) / 60.0);
            (x(q(flow)), y(p(drawing.curve.pressure_at(flow))))
        })
        .collect();
    let ends: Vec<(f64, f64)> = drawing
        .connection
        .iter()
        .filter(|c| q(c.0) <= q_max * 1.0001)
        .map(|c| (x(q(c.0)), y(p(c.1))))
        .collect();
    if let Some(design) = drawing.design {
        svg.rect(left, top, x(q(design)) - left, height - top - bottom, colour::OK_FAINT);
        svg.line((x(q(design)), top), (x(q(design)), height - bottom), colour::EARTH, 2.0, true);
        svg.text(
            (x(q(design)) + 6.0, top + 12.0),
            Anchor::Start,
            Type { size: 13.0, bold: true, fill: colour::EARTH },
            &format!("design {}", design.show(units)),
        );
    }
    svg.path(&sampled, colour::WATER, 3.0, "none", false);
    if ends.len() > 1 {
        svg.path(&ends, colour::INK, 2.0, "none", true);
        let (ex, ey) = ends[ends.len() / 3];
        svg.text(
            (ex, ey + 18.0),
            Anchor::Middle,
            Type { size: 12.5, bold: true, fill: colour::INK },
            "at the valves",
        );
    }
    let (gx, gy) = sampled[18];
    svg.text(
        (gx, gy - 8.0),
        Anchor::Middle,
        Type { size: 12.5, bold: true, fill: colour::WATER },
        "at the gauge",
    );
    for (flow, pressure) in &drawing.curve.pairs {
        svg.circle((x(q(*flow)), y(p(*pressure))), 5.0, colour::WHITE, colour::WATER);
    }
    svg.circle((x(0.0), y(p(drawing.curve.static_pressure))), 5.0, colour::WATER, colour::WATER);
    svg.finish()
}
