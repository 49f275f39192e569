//! A nozzle over pressure: flow, throw and rate, with the rows of its chart where it has some.

use crate::colour;
use crate::svg::{Anchor, Svg, Type};
use fenlo_core::catalogue::{ChartRow, HeadClass, Nozzle};
use fenlo_core::units::{Flow, Length, Pressure, Rate, UnitSystem};

/// What is drawn over the pressure.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Over {
    /// Flow of a full circle, or of any arc.
    Flow,
    /// Throw.
    Throw,
    /// Rate head to head.
    Rate,
}

/// The curve of a nozzle from half of its kind's least pressure to half over its greatest.
pub fn nozzle_curve(
    nozzle: &Nozzle,
    kind: &HeadClass,
    rows: &[ChartRow],
    over: Over,
    u: UnitSystem,
) -> String {
    let (w, h, left, base, top) = (300.0, 190.0, 46.0, 156.0, 26.0);
    let exponent = nozzle.exponent.unwrap_or(kind.exponent);
    let flow = |p: Pressure| nozzle.flow * (p / kind.nominal).max(0.0).powf(exponent);
    let throw = |p: Pressure| nozzle.throw(kind, p, None).unwrap_or(Length::ZERO);
    let value = |p: Pressure| match over {
        Over::Flow => in_unit(flow(p), u),
        Over::Throw => length(throw(p), u),
        Over::Rate => rate(Rate::from_mmph(60.0 * flow(p).lpm() / throw(p).m().powi(2).max(0.01)), u),
    };
    let (title, unit) = match (over, u.is_metric()) {
        (Over::Flow, false) => ("Flow, full circle", "gpm"),
        (Over::Flow, true) => ("Flow, full circle", "L/min"),
        (Over::Throw, false) => ("Radius", "ft"),
        (Over::Throw, true) => ("Radius", "m"),
        (Over::Rate, false) => ("Rate, head to head", "in/h"),
        (Over::Rate, true) => ("Rate, head to head", "mm/h"),
    };
    let end = kind.high * 1.5;
    let most = (1..=30).map(|i| value(end * (f64::from(i) / 30.0))).fold(0.0, f64::max).max(1e-9) * 1.15;
    let x = |p: Pressure| left + (w - left - 12.0) * (p / end).clamp(0.0, 1.0);
    let y = |v: f64| base - (base - top) * (v / most).clamp(0.0, 1.0);
    let mut svg = Svg::new(w, h, "curve nozzle-curve", &format!("{title} of {} over pressure", nozzle.label));
    // The usable band, and the pressure that the class is named for.
    svg.rect(x(kind.low), top, x(kind.high) - x(kind.low), base - top, colour::OK_THIN);
    svg.line((x(kind.nominal), top), (x(kind.nominal), base), colour::OK, 1.2, true);
    svg.line((left, base), (w - 12.0, base), colour::INK, 1.0, false);
    svg.line((left, top), (left, base), colour::INK, 1.0, false);
    let start = kind.low * 0.5;
    let points: Vec<(f64, f64)> = (0..=40)
        .map(|i| start + (end - start) * (f64::from(i) / 40.0))
        .map(|p| (x(p), y(value(p))))
        .collect();
    svg.path(&points, colour::WATER, 2.2, "none", false);
    for row in rows {
        let full = if nozzle.arc_rule == fenlo_core::catalogue::ArcRule::Proportional {
            360.0 / f64::from(row.arc)
        } else {
            1.0
        };
        let v = match over {
            Over::Flow => in_unit(row.flow * full, u),
            Over::Throw => length(row.radius, u),
            Over::Rate => {
                rate(Rate::from_mmph(60.0 * row.flow.lpm() * full / row.radius.m().powi(2).max(0.01)), u)
            }
        };
        svg.circle((x(row.pressure), y(v)), 3.6, colour::PAPER, colour::EARTH);
    }
    let small = Type { size: 11.5, fill: colour::SOFT, bold: false };
    svg.text(
        (left, 14.0),
        Anchor::Start,
        Type { size: 12.5, fill: colour::INK, bold: true },
        &format!("{title}, {unit}"),
    );
    for p in [kind.low, kind.nominal, kind.high] {
        svg.text(
            (x(p), base + 14.0),
            Anchor::Middle,
            small,
            p.show_round(u).trim_end_matches(Pressure::unit(u)).trim_end(),
        );
    }
    let at = value(kind.nominal);
    svg.line((left - 4.0, y(at)), (left, y(at)), colour::INK, 1.0, false);
    svg.text(
        (left - 6.0, y(at) + 4.0),
        Anchor::End,
        small,
        &if at < 10.0 { format!("{at:.2}") } else { format!("{at:.1}") },
    );
    svg.text((left - 6.0, base + 4.0), Anchor::End, small, "0");
    svg.text(
        (w - 12.0, h - 4.0),
        Anchor::End,
        small,
        &format!("pressure at the nozzle, {}", Pressure::unit(u)),
    );
    svg.finish()
}

fn in_unit(f: Flow, u: UnitSystem) -> f64 {
    if u == UnitSystem::Us { f.gpm() } else { f.lpm() }
}
fn length(l: Length, u: UnitSystem) -> f64 {
    if u == UnitSystem::Us { l.ft() } else { l.m() }
}
fn rate(r: Rate, u: UnitSystem) -> f64 {
    if u == UnitSystem::Us { r.mmph() / 25.4 } else { r.mmph() }
}
