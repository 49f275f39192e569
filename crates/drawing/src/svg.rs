//! A thin writer of SVG text.

use std::fmt::Write;

/// Text made safe for element content and attributes.
pub(crate) fn escape(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    for c in text.chars() {
        match c {
            '<' => out.push_str("&lt;"),
            '>' => out.push_str("&gt;"),
            '&' => out.push_str("&amp;"),
            '"' => out.push_str("&quot;"),
            '\'' => out.push_str("&#39;"),
            c if c.is_control() => {}
            c => out.push(c),
        }
    }
    out
}

const FONT: &str = "Atkinson Hyperlegible Next, sans-serif";

/// How a text hangs on its point.
#[derive(Clone, Copy)]
pub(crate) enum Anchor {
    Start,
    Middle,
    End,
}

/// How a text looks.
#[derive(Clone, Copy)]
pub(crate) struct Type {
    pub size: f64,
    pub bold: bool,
    pub fill: &'static str,
}

pub(crate) struct Svg {
    out: String,
}

impl Svg {
    /// An empty drawing with its title.
    pub fn new(width: f64, height: f64, class: &str, title: &str) -> Self {
        let mut out = String::new();
        let _ = write!(
            out,
            r#"<svg xmlns="http://www.w3.org/2000/svg" class="{class}" viewBox="0 0 {width} {height}""#
        );
        let _ = write!(
            out,
            r#" preserveAspectRatio="xMinYMid meet" role="img" font-family="{FONT}"><title>{}</title>"#,
            escape(title)
        );
        Self { out }
    }

    pub fn rect(&mut self, x: f64, y: f64, w: f64, h: f64, fill: &str) {
        let _ = write!(
            self.out,
            r#"<rect x="{x:.1}" y="{y:.1}" width="{:.1}" height="{:.1}" fill="{fill}"/>"#,
            w.max(0.0),
            h.max(0.0)
        );
    }

    pub fn line(
        &mut self,
        (x1, y1): (f64, f64),
        (x2, y2): (f64, f64),
        stroke: &str,
        width: f64,
        dashed: bool,
    ) {
        let dash = if dashed { r#" stroke-dasharray="5 4""# } else { "" };
        let _ = write!(
            self.out,
            r#"<line x1="{x1:.1}" y1="{y1:.1}" x2="{x2:.1}" y2="{y2:.1}" stroke="{stroke}" stroke-width="{width}"{dash}/>"#
        );
    }

    pub fn path(&mut self, points: &[(f64, f64)], stroke: &str, width: f64, fill: &str, dashed: bool) {
        let dash = if dashed { r#" stroke-dasharray="7 5""# } else { "" };
        let d: Vec<String> = points
            .iter()
            .enumerate()
            .map(|(i, (x, y))| format!("{}{x:.1} {y:.1}", if i == 0 { 'M' } else { 'L' }))
            .collect();
        let _ = write!(
            self.out,
            r#"<path d="{}" fill="{fill}" stroke="{stroke}" stroke-width="{width}" stroke-linejoin="round"{dash}/>"#,
            d.join("")
        );
    }

    pub fn circle(&mut self, (x, y): (f64, f64), r: f64, fill: &str, stroke: &str) {
        let _ = write!(
            self.out,
            r#"<circle cx="{x:.1}" cy="{y:.1}" r="{r}" fill="{fill}" stroke="{stroke}" stroke-width="2"/>"#
        );
    }

    pub fn text(&mut self, (x, y): (f64, f64), anchor: Anchor, look: Type, text: &str) {
        let anchor = match anchor {
            Anchor::Start => "start",
            Anchor::Middle => "middle",
            Anchor::End => "end",
        };
        let weight = if look.bold { 700 } else { 400 };
        let _ = write!(
            self.out,
            r##"<text x="{x:.1}" y="{y:.1}" text-anchor="{anchor}" font-size="{}" font-weight="{weight}" fill="{}">{}</text>"##,
            look.size,
            look.fill,
            escape(text)
        );
    }

    pub fn raw(&mut self, svg: &str) {
        self.out.push_str(svg);
    }

    pub fn finish(mut self) -> String {
        self.out.push_str("</svg>");
        self.out
    }
}

/// A mark on an axis with as many decimals as its step needs.
pub(crate) fn tick(mark: f64, step: f64) -> String {
    let decimals = (-step.log10()).ceil().max(0.0) as usize;
    format!("{mark:.decimals$}")
}

/// A step of 1, 2 or 5 times a power of ten that divides a range into about `n`.
pub(crate) fn nice_step(range: f64, n: f64) -> f64 {
    let raw = (range / n).max(1e-9);
    let power = 10f64.powf(raw.log10().floor());
    let share = raw / power;
    power
        * if share <= 1.0 {
            1.0
        } else if share <= 2.0 {
            2.0
        } else if share <= 5.0 {
            5.0
        } else {
            10.0
        }
}
