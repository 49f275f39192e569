//! Strip and square patterns on ground that is narrow or made of squares.

use super::field::Field;
use super::frame::bounds;
use super::trial::Trial;
use crate::catalogue::{Catalogue, Kind, Lies};
use crate::coverage::OFF_EDGE;
use crate::site::{Outline, Point};
use crate::units::Length;

/// A strip serves ground up to a quarter wider or narrower than itself; both in metres.
pub(super) fn serves(strip: f64, ground: f64) -> bool {
    (ground / strip - 1.0).abs() <= 0.25
}

/// Layouts of patterns for ground that is nearly a rectangle; none elsewhere.
pub(super) fn strips<'a>(
    field: &Field,
    catalogue: &'a Catalogue,
    kind: Kind,
    on_truck: bool,
) -> Vec<(&'static str, Vec<Trial<'a>>)> {
    let [piece] = field.pieces.as_slice() else {
        return Vec::new();
    };
    let (low, high) = bounds(&piece.outline.flat(0.02));
    let size = high - low;
    if piece.area_m2() < 0.88 * size.x * size.y || Outline::edges(&piece.outline).count() > 12 {
        return Vec::new();
    }
    let mut out = Vec::new();
    let of = |lies: Lies, square: bool| {
        catalogue.nozzles.iter().filter(move |n| {
            n.kind == kind
                && (n.favourite || !on_truck)
                && n.pattern.is_some_and(|s| s.lies == lies && (s.width == s.length) == square)
        })
    };
    let trial = |nozzle, at: Point, facing: f64, radius: Option<Length>| Trial {
        at,
        facing,
        arc: 360,
        nozzle,
        radius,
        fixed: true,
    };
    let turned = |full: f64, to: f64| (to < full * 0.98).then(|| Length::from_m(to));
    for side in of(Lies::Across, false) {
        let Some(pattern) = side.pattern else { continue };
        let (width, half) = (pattern.width.m(), pattern.length.m() / 2.0);
        if !serves(width, size.y) || size.x < half * 0.7 {
            continue;
        }
        let end = of(Lies::Ahead, false).find(|n| n.pattern.is_some_and(|p| p.width == pattern.width));
        let parts = ((size.x - 2.0 * OFF_EDGE) / half - 0.03).ceil().max(1.0);
        let step = (size.x - 2.0 * OFF_EDGE) / parts;
        let length = step.max(side.least_throw().map_or(half, Length::m));
        let at = |i: f64| low + Point::new(OFF_EDGE + i * step, OFF_EDGE);
        let mut heads: Vec<Trial<'a>> = Vec::new();
        if let Some(end) = end {
            let middle = Point::new(0.0, size.y / 2.0 - OFF_EDGE);
            heads.push(trial(end, at(0.0) + middle, 0.0, turned(half, length)));
            heads.extend((1..parts as usize).map(|i| trial(side, at(i as f64), 90.0, turned(half, length))));
            heads.push(trial(end, at(parts) + middle, 180.0, turned(half, length)));
        } else {
            heads.extend((0..parts as usize).map(|i| trial(side, at(i as f64 + 0.5), 90.0, None)));
        }
        out.push(("strips", heads));
    }
    for square in of(Lies::Round, true) {
        let Some(pattern) = square.pattern else { continue };
        let wide = pattern.width.m();
        let (across, up) = ((size.x / wide).round(), (size.y / wide).round());
        let off = |run: f64, count: f64| (run / (count * wide) - 1.0).abs();
        if across < 1.0
            || up < 1.0
            || across * up > 24.0
            || off(size.x, across) > 0.1
            || off(size.y, up) > 0.1
        {
            continue;
        }
        let (dx, dy) = (size.x / across, size.y / up);
        let heads = (0..up as usize).flat_map(|j| {
            (0..across as usize).map(move |i| low + Point::new((i as f64 + 0.5) * dx, (j as f64 + 0.5) * dy))
        });
        out.push(("squares", heads.map(|at| trial(square, at, 0.0, None)).collect()));
    }
    out
}
