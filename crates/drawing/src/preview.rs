use crate::glyph::zone_colour;
use crate::svg::escape;
use fenlo_core::site::{Path, Point, Shape};
use std::fmt::Write;

/// A layer of a drawing that may come in.
#[derive(Debug, Clone, PartialEq)]
pub struct PreviewLayer<'a> {
    /// What it is called.
    pub name: &'a str,
    /// Ground.
    pub rings: Vec<&'a Shape>,
    /// Lines that do not close.
    pub lines: Vec<&'a Path>,
    /// Centre and radius.
    pub circles: Vec<(Point, f64)>,
    /// Points and the places of texts.
    pub points: Vec<Point>,
    /// It comes in as things stand.
    pub taken: bool,
}

/// Width and height of the picture, pixels.
const SIZE: (f64, f64) = (760.0, 420.0);
const EDGE: f64 = 14.0;
/// Length of one layer's path in letters: what is finer than the picture shows is no loss.
const MOST_LETTERS: usize = 400_000;

/// A drawing as it would come in, each layer in a colour of its own; what is left out is pale and thin,
/// ground is filled. Empty where it holds nothing with a place.
pub fn import_preview(layers: &[PreviewLayer<'_>], low: Point, high: Point) -> String {
    let (w, h) = ((high.x - low.x).max(1e-9), (high.y - low.y).max(1e-9));
    let scale = ((SIZE.0 - 2.0 * EDGE) / w).min((SIZE.1 - 2.0 * EDGE) / h);
    let at = |p: Point| {
        let x = (SIZE.0 - w * scale) / 2.0 + (p.x - low.x) * scale;
        let y = (SIZE.1 + h * scale) / 2.0 - (p.y - low.y) * scale;
        (x, y)
    };
    let mut out = format!(
        r#"<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {} {}" class="import-preview" role="img"
          aria-label="The drawing as it would come in">"#,
        SIZE.0, SIZE.1
    );
    // What comes in lies on top of what does not.
    let order = layers.iter().enumerate().filter(|l| !l.1.taken);
    for (i, layer) in order.chain(layers.iter().enumerate().filter(|l| l.1.taken)) {
        let (colour, strength) = (zone_colour(i + 1), if layer.taken { 1.0 } else { 0.35 });
        let _ = write!(
            out,
            r#"<g stroke="{colour}" stroke-opacity="{strength}" stroke-width="{}" fill="none"><title>{}</title>"#,
            if layer.taken { 1.5 } else { 0.8 },
            escape(layer.name)
        );
        let fine = 0.3 / scale;
        let mut ground = String::new();
        for ring in layer.rings.iter().flat_map(|s| s.rings()) {
            trace(&mut ground, ring.flat(fine).into_iter().map(at), true);
        }
        if !ground.is_empty() {
            let fill = if layer.taken { 0.28 } else { 0.0 };
            let _ = write!(
                out,
                r#"<path d="{ground}" fill="{colour}" fill-opacity="{fill}" fill-rule="evenodd"/>"#
            );
        }
        let mut lines = String::new();
        for line in &layer.lines {
            trace(&mut lines, line.flat(fine).into_iter().map(at), false);
        }
        for (centre, radius) in layer.circles.iter().take(5_000) {
            let ((x, y), r) = (at(*centre), radius * scale);
            let _ = write!(
                lines,
                "M{:.1} {y:.1}a{r:.1} {r:.1} 0 1 0 {:.1} 0a{r:.1} {r:.1} 0 1 0 {:.1} 0",
                x - r,
                2.0 * r,
                -2.0 * r
            );
        }
        for point in layer.points.iter().take(5_000) {
            let (x, y) = at(*point);
            let _ = write!(lines, "M{:.1} {y:.1}h5M{x:.1} {:.1}v5", x - 2.5, y - 2.5);
        }
        if !lines.is_empty() {
            let _ = write!(out, r#"<path d="{lines}"/>"#);
        }
        out.push_str("</g>");
    }
    out.push_str("</svg>");
    out
}

/// The small square of a layer's colour beside its name.
pub fn preview_colour(layer: usize) -> String {
    format!(
        r#"<svg viewBox="0 0 12 12" width="12" height="12" aria-hidden="true"><rect width="12" height="12" rx="2" fill="{}"/></svg>"#,
        zone_colour(layer + 1)
    )
}

/// Adds a line; steps under half a pixel are not told.
fn trace(out: &mut String, points: impl Iterator<Item = (f64, f64)>, closed: bool) {
    if out.len() > MOST_LETTERS {
        return;
    }
    let mut last: Option<(f64, f64)> = None;
    for (x, y) in points {
        match last {
            None => {
                let _ = write!(out, "M{x:.1} {y:.1}");
            }
            Some((a, b)) if (x - a).abs().max((y - b).abs()) < 0.5 => continue,
            Some(_) => {
                let _ = write!(out, "L{x:.1} {y:.1}");
            }
        }
        last = Some((x, y));
    }
    if closed && last.is_some() {
        out.push('Z');
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use fenlo_core::site::{Outline, Vertex};

    #[test]
    fn what_comes_in_is_filled_and_on_top_and_names_are_escaped() {
        let corner = |x: f64, y: f64| Vertex::new(x, y);
        let square = Shape::plain(Outline(vec![
            corner(0.0, 0.0),
            corner(10.0, 0.0),
            corner(10.0, 10.0),
            corner(0.0, 10.0),
        ]));
        let line = Path(vec![corner(0.0, 0.0), corner(10.0, 10.0)]);
        let layer = |name, taken| PreviewLayer {
            name,
            rings: vec![&square],
            lines: vec![&line],
            circles: vec![(Point::new(5.0, 5.0), 1.0)],
            points: vec![Point::new(5.0, 5.0)],
            taken,
        };
        let layers = [layer("<lawn>", true), layer("notes", false)];
        let svg = import_preview(&layers, Point::new(0.0, 0.0), Point::new(10.0, 10.0));
        assert!(svg.find("notes") < svg.find("&lt;lawn&gt;"));
        assert_eq!(svg.matches(r#"fill-opacity="0.28""#).count(), 1);
        // 392 pixels of height for 10 of the drawing: the lower left corner lies at 184, 406.
        assert!(svg.contains("M184.0 406.0L576.0 406.0L576.0 14.0L184.0 14.0Z"), "{svg}");
        // Finer than the picture shows: 2,000 corners on a line of 10 are not all told.
        let fine = Path((0..2_000).map(|i| corner(f64::from(i) * 0.005, 0.0)).collect());
        let dense = PreviewLayer { lines: vec![&fine], rings: Vec::new(), ..layer("fine", true) };
        let svg = import_preview(&[dense], Point::new(0.0, 0.0), Point::new(10.0, 10.0));
        assert!(svg.matches('L').count() < 800, "{}", svg.matches('L').count());
    }
}
