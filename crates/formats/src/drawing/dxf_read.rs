//! DXF as ASCII. The parsing is the `dxf` crate's; here its input is bounded before and what it
//! found is brought to outlines, lines, points and texts.

use super::dxf_scan::{Scanned, scan};
use super::spline::{flatten, through};
use super::{Drawing, FURTHEST, Layer, MOST_LAYERS, MOST_PIECES, MOST_POINTS, bounded};
use crate::error::ReadError;
use dxf::entities::{Entity, EntityType};
use dxf::enums::Units;
use fenlo_core::site::{Outline, Path, Point, Shape, Vertex};
use std::collections::HashMap;

/// Blocks within blocks.
const DEEPEST: usize = 12;
/// Records of a file: each takes about a kilobyte while it is read.
const MOST_RECORDS: usize = 400_000;

/// Reads a drawing.
///
/// # Errors
/// What is wrong, with its line where the fault has one.
pub fn read_dxf(bytes: &[u8]) -> Result<Drawing, ReadError> {
    bounded(bytes)?;
    if bytes.iter().take(2000).any(|b| *b == 0) {
        return Err(ReadError::one("file", "is binary: save it as DXF in ASCII"));
    }
    let records = records(bytes)?;
    if records > MOST_RECORDS {
        return Err(ReadError::one(
            "file",
            format!(
                "holds {records} records; at most {MOST_RECORDS} are read. Remove layers you do not need"
            ),
        ));
    }
    let scanned = scan(bytes);
    // The file is anybody's: whatever trips the parser is a fault of the file, not of the server.
    let loaded = std::panic::catch_unwind(|| {
        dxf::Drawing::load_with_encoding(&mut &scanned.bytes[..], scanned.encoding)
    });
    let file = match loaded {
        Ok(Ok(file)) => file,
        Ok(Err(e)) => return Err(ReadError::one("file", words(&e, &scanned))),
        Err(_) => return Err(ReadError::one("file", "cannot be read as DXF")),
    };
    let mut spread = Spread { blocks: HashMap::new(), out: Drawing::default(), points: 0, pieces: 0 };
    spread.out.loose = true;
    for ((what, layer), n) in &scanned.left_out {
        spread.out.left_out(what, layer, *n);
    }
    for block in file.blocks() {
        spread.blocks.insert(block.name.to_uppercase(), block);
    }
    spread.out.metres = metres(file.header.default_drawing_units);
    for (n, entity) in file.entities().enumerate() {
        spread.entity(entity, Placing::HERE, None, &mut Vec::new(), n + 1)?;
    }
    let mut out = spread.out;
    out.layers.retain(|_, l| !l.is_empty());
    for (name, why) in &scanned.hidden {
        if let Some(layer) = out.layers.get_mut(name) {
            layer.hidden = Some((*why).to_owned());
        }
    }
    Ok(out)
}

/// Records begin with the code 0 on a line of its own, at every other line.
fn records(bytes: &[u8]) -> Result<usize, ReadError> {
    let mut records = 0;
    let mut code = true;
    for (i, line) in bytes.split(|b| *b == b'\n').enumerate() {
        let text = line.trim_ascii();
        if code {
            if text == b"0" {
                records += 1;
            } else if !text.is_empty()
                && std::str::from_utf8(text).ok().and_then(|t| t.parse::<i32>().ok()).is_none()
            {
                return Err(ReadError::one(
                    format!("line {}", i + 1),
                    format!(
                        "‘{}’ is not a code of DXF",
                        String::from_utf8_lossy(&text[..text.len().min(20)])
                    ),
                ));
            }
        }
        code = !code;
    }
    let ends = bytes.trim_ascii_end().ends_with(b"EOF");
    if records > 1 && !ends {
        return Err(ReadError::one("file", "is incomplete; the upload was cut off"));
    }
    if records < 2 { Err(ReadError::one("file", "is not DXF: it has no sections")) } else { Ok(records) }
}

fn words(error: &dxf::DxfError, scanned: &Scanned) -> String {
    use dxf::DxfError::{
        ExpectedTableType, ParseError, ParseFloatError, ParseIntError, UnexpectedByte, UnexpectedCode,
        UnexpectedCodePair, UnexpectedEndOfInput, UnexpectedEnumValue, WrongValueType,
    };
    match error {
        ParseFloatError(_, line) | ParseIntError(_, line) => {
            format!("line {}: a number is expected", scanned.line(*line))
        }
        ParseError(line)
        | UnexpectedEnumValue(line)
        | ExpectedTableType(line)
        | WrongValueType(line)
        | UnexpectedByte(_, line)
        | UnexpectedCode(_, line) => {
            format!("line {}: not valid DXF", scanned.line(*line))
        }
        UnexpectedCodePair(pair, what) => {
            format!("line {}: not valid DXF ({what})", scanned.line(pair.offset))
        }
        UnexpectedEndOfInput => "is incomplete; the upload was cut off".into(),
        other => other.to_string(),
    }
}

fn metres(units: Units) -> Option<f64> {
    Some(match units {
        Units::Inches => 0.0254,
        Units::Feet => 0.3048,
        Units::Miles => 1609.344,
        Units::Millimeters => 0.001,
        Units::Centimeters => 0.01,
        Units::Meters => 1.0,
        Units::Kilometers => 1000.0,
        Units::Yards => 0.9144,
        Units::Decimeters => 0.1,
        Units::USSurveyFeet => 1200.0 / 3937.0,
        _ => return None,
    })
}

/// Where a block stands: turned, stretched, shifted.
#[derive(Clone, Copy)]
struct Placing {
    x: (f64, f64),
    y: (f64, f64),
    at: (f64, f64),
}

impl Placing {
    const HERE: Self = Self { x: (1.0, 0.0), y: (0.0, 1.0), at: (0.0, 0.0) };

    fn of(self, x: f64, y: f64) -> Point {
        Point::new(self.at.0 + x * self.x.0 + y * self.y.0, self.at.1 + x * self.x.1 + y * self.y.1)
    }
    /// A placing within this one.
    fn then(self, inner: Self) -> Self {
        let turn = |v: (f64, f64)| (v.0 * self.x.0 + v.1 * self.y.0, v.0 * self.x.1 + v.1 * self.y.1);
        let at = self.of(inner.at.0, inner.at.1);
        Self { x: turn(inner.x), y: turn(inner.y), at: (at.x, at.y) }
    }
    fn flips(self) -> bool {
        self.x.0 * self.y.1 - self.x.1 * self.y.0 < 0.0
    }
    /// True if circles stay circles.
    fn is_even(self) -> bool {
        let (a, b) = (self.x.0.hypot(self.x.1), self.y.0.hypot(self.y.1));
        (a - b).abs() < 1e-6 * a.max(b) && (self.x.0 * self.y.0 + self.x.1 * self.y.1).abs() < 1e-6 * a * b
    }
}

struct Spread<'a> {
    blocks: HashMap<String, &'a dxf::Block>,
    out: Drawing,
    points: usize,
    pieces: usize,
}

/// A length of a placing under which two ends of a curve are one.
const NEAR: f64 = 1e-3;
/// How far a straight piece may lie off a stretched arc, as a share of the arc's size.
const FLAT: f64 = 1e-4;

impl Spread<'_> {
    fn layer(&mut self, name: &str) -> Result<&mut Layer, ReadError> {
        let name: String = name.chars().filter(|c| !c.is_control()).take(100).collect();
        if self.out.layers.len() >= MOST_LAYERS && !self.out.layers.contains_key(&name) {
            return Err(ReadError::one("file", format!("has more than {MOST_LAYERS} layers")));
        }
        Ok(self.out.layers.entry(name).or_default())
    }

    fn count(&mut self, points: usize, n: usize) -> Result<(), ReadError> {
        self.points += points;
        self.pieces += 1;
        if self.points > MOST_POINTS || self.pieces > MOST_PIECES {
            return Err(ReadError::one(
                format!("element {n}"),
                format!(
                    "the drawing grows beyond {MOST_PIECES} pieces or {MOST_POINTS} corners with its \
                        blocks expanded"
                ),
            ));
        }
        Ok(())
    }

    fn line(&mut self, layer: &str, vertices: Vec<Vertex>, closed: bool, n: usize) -> Result<(), ReadError> {
        self.count(vertices.len(), n)?;
        if vertices
            .iter()
            .any(|v| !(v.at.x.abs() < FURTHEST && v.at.y.abs() < FURTHEST && v.bulge.is_finite()))
        {
            return Err(ReadError::one(format!("element {n}"), "has an invalid or far-away coordinate"));
        }
        let layer = self.layer(layer)?;
        if closed && vertices.len() > 1 {
            layer.closed.push((Shape::plain(Outline(vertices)), String::new()));
        } else if vertices.len() > 1 {
            layer.open.push(Path(vertices));
        }
        Ok(())
    }

    fn entity(
        &mut self,
        entity: &Entity,
        placing: Placing,
        over: Option<&str>,
        within: &mut Vec<String>,
        n: usize,
    ) -> Result<(), ReadError> {
        // On layer 0 of a block a thing takes the layer that the block is put on.
        let own = entity.common.layer.as_str();
        let name = over.filter(|_| own == "0").unwrap_or(own);
        if entity.common.is_in_paper_space {
            self.out.left_out("objects on paper sheets", name, 1);
            return Ok(());
        }
        let unseen = format!("{name}, invisible");
        let is_insert = matches!(entity.specific, EntityType::Insert(_));
        let name = if entity.common.is_visible || is_insert {
            name
        } else {
            self.layer(&unseen)?.hidden = Some("invisible".into());
            unseen.as_str()
        };
        // Seen from below, x runs the other way.
        let seen = |normal: &dxf::Vector| {
            if normal.z < 0.0 {
                placing.then(Placing { x: (-1.0, 0.0), y: (0.0, 1.0), at: (0.0, 0.0) })
            } else {
                placing
            }
        };
        match &entity.specific {
            EntityType::Line(l) => {
                self.line(name, straight(&[placing.of(l.p1.x, l.p1.y), placing.of(l.p2.x, l.p2.y)]), false, n)
            }
            EntityType::LwPolyline(p) => {
                let here = seen(&p.extrusion_direction);
                self.bulged(name, p.vertices.iter().map(|v| (v.x, v.y, v.bulge)), p.is_closed(), here, n)
            }
            EntityType::Polyline(p) if p.is_3d_polygon_mesh() || p.is_polyface_mesh() => {
                self.out.left_out("meshes", name, 1);
                Ok(())
            }
            EntityType::Polyline(p) => {
                let here = seen(&p.normal);
                // Frames of curves are not the curve.
                self.bulged(
                    name,
                    p.vertices().filter(|v| v.flags & 16 == 0).map(|v| (v.location.x, v.location.y, v.bulge)),
                    p.is_closed(),
                    here,
                    n,
                )
            }
            EntityType::Arc(a) => {
                let sweep = (a.end_angle - a.start_angle).rem_euclid(360.0);
                let sweep = if sweep == 0.0 { 360.0 } else { sweep };
                let at = |share: f64| {
                    let (sin, cos) = (a.start_angle + sweep * share).to_radians().sin_cos();
                    (a.center.x + a.radius * cos, a.center.y + a.radius * sin)
                };
                // In halves: the bulge of nearly a whole turn has no end.
                let bulge = (sweep.to_radians() / 8.0).tan();
                let corners = [(at(0.0), bulge), (at(0.5), bulge), (at(1.0), 0.0)];
                self.bulged(name, corners.into_iter().map(|((x, y), b)| (x, y, b)), false, seen(&a.normal), n)
            }
            EntityType::Circle(c) => {
                let here = seen(&c.normal);
                let centre = here.of(c.center.x, c.center.y);
                let radius = c.radius * here.x.0.hypot(here.x.1);
                if !here.is_even() {
                    let points: Vec<Point> = (0..64)
                        .map(|i| (f64::from(i) / 64.0 * std::f64::consts::TAU).sin_cos())
                        .map(|(s, k)| here.of(c.center.x + c.radius * k, c.center.y + c.radius * s))
                        .collect();
                    return self.line(name, straight(&points), true, n);
                }
                self.count(1, n)?;
                if !(centre.x.abs() < FURTHEST
                    && centre.y.abs() < FURTHEST
                    && radius > 0.0
                    && radius < FURTHEST)
                {
                    return Err(ReadError::one(
                        format!("element {n}"),
                        "is a circle with a value that is not a number",
                    ));
                }
                self.layer(name)?.circles.push((centre, radius));
                Ok(())
            }
            EntityType::Ellipse(e) => {
                let (from, to) = (
                    e.start_parameter,
                    if e.end_parameter > e.start_parameter {
                        e.end_parameter
                    } else {
                        e.end_parameter + std::f64::consts::TAU
                    },
                );
                let closed = (to - from) > std::f64::consts::TAU - 1e-6;
                let (mx, my) = (e.major_axis.x, e.major_axis.y);
                // Its figures are those of the drawing, but the way round is the one seen along its normal.
                let ratio = if e.normal.z < 0.0 { -e.minor_axis_ratio } else { e.minor_axis_ratio };
                let at = |t: f64| {
                    placing.of(
                        e.center.x + mx * t.cos() - my * ratio * t.sin(),
                        e.center.y + my * t.cos() + mx * ratio * t.sin(),
                    )
                };
                let pieces = if closed { 95 } else { 96 };
                let points: Vec<Point> =
                    (0..=pieces).map(|i| at(from + (to - from) * f64::from(i) / 96.0)).collect();
                self.line(name, straight(&points), closed, n)
            }
            EntityType::Spline(s) => {
                let place = |p: &dxf::Point| placing.of(p.x, p.y);
                let control: Vec<Point> = s.control_points.iter().map(place).collect();
                let flat = usize::try_from(s.degree_of_curve)
                    .ok()
                    .and_then(|degree| flatten(degree, &s.knot_values, &control, &s.weight_values));
                let fit = || through(&s.fit_points.iter().map(place).collect::<Vec<_>>());
                match flat.or_else(fit) {
                    Some(mut points) => {
                        let closed = points.len() > 3 && points[0].distance(points[points.len() - 1]) < NEAR;
                        if closed {
                            points.pop();
                        }
                        self.line(name, straight(&points), closed, n)
                    }
                    None => {
                        self.out.left_out("empty splines", name, 1);
                        Ok(())
                    }
                }
            }
            EntityType::Text(t) => {
                let at = seen(&t.normal).of(t.location.x, t.location.y);
                self.text(name, at, &plain(&t.value), n)
            }
            EntityType::MText(t) => {
                let all: String =
                    t.extended_text.iter().map(String::as_str).chain([t.text.as_str()]).collect();
                self.text(name, placing.of(t.insertion_point.x, t.insertion_point.y), &plain(&all), n)
            }
            EntityType::ModelPoint(p) => {
                self.count(1, n)?;
                let at = placing.of(p.location.x, p.location.y);
                if !(at.x.abs() < FURTHEST && at.y.abs() < FURTHEST && p.location.z.abs() < FURTHEST) {
                    return Err(ReadError::one(
                        format!("element {n}"),
                        "is a point with a value that is not a number",
                    ));
                }
                self.layer(name)?.points.push((at, Some(p.location.z)));
                Ok(())
            }
            EntityType::Insert(i) => self.insert(i, seen(&i.extrusion_direction), name, within, n),
            _ => {
                self.out.left_out("other objects", name, 1);
                Ok(())
            }
        }
    }

    fn bulged(
        &mut self,
        layer: &str,
        corners: impl Iterator<Item = (f64, f64, f64)>,
        closed: bool,
        placing: Placing,
        n: usize,
    ) -> Result<(), ReadError> {
        let flip = if placing.flips() { -1.0 } else { 1.0 };
        let mut vertices: Vec<Vertex> = Vec::new();
        let mut corners: Vec<(f64, f64, f64)> = corners.collect();
        if !placing.is_even() && corners.iter().any(|c| c.2 != 0.0) {
            // A stretched arc is no arc of a circle: straight pieces, cut before it is stretched.
            corners = straightened(corners, closed);
        }
        for (x, y, bulge) in corners {
            let at = placing.of(x, y);
            // A corner said twice is one; the bend of the second counts.
            if let Some(last) = vertices.last_mut()
                && last.at == at
            {
                last.bulge = bulge * flip;
                continue;
            }
            vertices.push(Vertex { at, bulge: bulge * flip });
        }
        let ends_where_it_began = vertices.len() > 2 && vertices[0].at == vertices[vertices.len() - 1].at;
        if ends_where_it_began {
            vertices.pop();
        }
        self.line(layer, vertices, closed || ends_where_it_began, n)
    }

    fn text(&mut self, layer: &str, at: Point, value: &str, n: usize) -> Result<(), ReadError> {
        self.count(1, n)?;
        let value: String = value.chars().filter(|c| !c.is_control()).take(500).collect();
        if at.x.abs() < FURTHEST && at.y.abs() < FURTHEST && !value.trim().is_empty() {
            self.layer(layer)?.texts.push((at, value.trim().to_owned()));
        }
        Ok(())
    }

    fn insert(
        &mut self,
        i: &dxf::entities::Insert,
        placing: Placing,
        layer: &str,
        within: &mut Vec<String>,
        n: usize,
    ) -> Result<(), ReadError> {
        let name = i.name.to_uppercase();
        if within.contains(&name) {
            return Err(ReadError::one(
                format!("element {n}"),
                format!("block ‘{}’ contains itself", i.name.chars().take(60).collect::<String>()),
            ));
        }
        if within.len() >= DEEPEST {
            return Err(ReadError::one(
                format!("element {n}"),
                format!("blocks within blocks more than {DEEPEST} deep"),
            ));
        }
        let Some(block) = self.blocks.get(&name).copied() else {
            self.out.left_out("blocks that the file does not hold", layer, 1);
            return Ok(());
        };
        if block.is_xref() || block.is_xref_overlay() {
            self.out.left_out("external references", layer, 1);
            return Ok(());
        }
        let (sin, cos) = i.rotation.to_radians().sin_cos();
        let (columns, rows) = (i.column_count.clamp(1, 100), i.row_count.clamp(1, 100));
        within.push(name);
        for (row, column) in (0..rows).flat_map(|r| (0..columns).map(move |c| (r, c))) {
            let (dx, dy) = (f64::from(column) * i.column_spacing, f64::from(row) * i.row_spacing);
            let stand = Placing {
                x: (cos * i.x_scale_factor, sin * i.x_scale_factor),
                y: (-sin * i.y_scale_factor, cos * i.y_scale_factor),
                at: (i.location.x + cos * dx - sin * dy, i.location.y + sin * dx + cos * dy),
            };
            let back = Placing { at: (-block.base_point.x, -block.base_point.y), ..Placing::HERE };
            let here = placing.then(stand).then(back);
            // What is of no use counts as well: blocks in blocks of it would else be spread for ever.
            self.count(0, n)?;
            for entity in &block.entities {
                self.count(0, n)?;
                self.entity(entity, here, Some(layer), within, n)?;
            }
        }
        within.pop();
        Ok(())
    }
}

fn straight(points: &[Point]) -> Vec<Vertex> {
    points.iter().map(|&at| Vertex { at, bulge: 0.0 }).collect()
}

/// Corners with bends as corners without.
fn straightened(corners: Vec<(f64, f64, f64)>, closed: bool) -> Vec<(f64, f64, f64)> {
    let vertex = |(x, y, bulge): (f64, f64, f64)| Vertex { at: Point::new(x, y), bulge };
    let vertices: Vec<Vertex> = corners.into_iter().map(vertex).collect();
    let reach = |of: fn(&Vertex) -> f64| {
        let (low, high) =
            vertices.iter().map(of).fold((f64::MAX, f64::MIN), |(l, h), v| (l.min(v), h.max(v)));
        high - low
    };
    let within = (reach(|v| v.at.x).max(reach(|v| v.at.y)) * FLAT).max(1e-9);
    let flat = if closed { Outline(vertices).flat(within) } else { Path(vertices).flat(within) };
    flat.into_iter().map(|p| (p.x, p.y, 0.0)).collect()
}

/// Text without its marks of type: `{\\fArial;Lawn}\\Pwest` reads `Lawn west`, `%%c50` reads `⌀50`.
fn plain(text: &str) -> String {
    let text = text.replace("%%d", "°").replace("%%D", "°").replace("%%c", "⌀").replace("%%C", "⌀");
    let text = text.replace("%%p", "±").replace("%%P", "±");
    let mut out = String::new();
    let mut letters = text.chars().peekable();
    while let Some(c) = letters.next() {
        match c {
            '{' | '}' => {}
            '\\' => match letters.next() {
                Some('P' | 'n' | '~') => out.push(' '),
                Some('\\') => out.push('\\'),
                // A letter by its number: \U+0410.
                Some('U') if letters.peek() == Some(&'+') => {
                    letters.next();
                    let digits: String = letters.by_ref().take(4).collect();
                    let letter = u32::from_str_radix(&digits, 16).ok().and_then(char::from_u32);
                    out.push(letter.unwrap_or('?'));
                }
                // Other marks run up to their semicolon.
                Some('A' | 'C' | 'c' | 'f' | 'F' | 'H' | 'Q' | 'T' | 'W' | 'p' | 'S') => {
                    letters.by_ref().take_while(|c| *c != ';').for_each(drop)
                }
                _ => {}
            },
            c => out.push(c),
        }
    }
    out
}
