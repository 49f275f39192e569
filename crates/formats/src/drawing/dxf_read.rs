//! DXF as ASCII. The parsing is the `dxf` crate's; here its input is bounded before and what it
//! found is brought to outlines, lines, points and texts.

use super::chain::chain;
use super::spline::flatten;
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
                "holds {records} records; at most {MOST_RECORDS} are read: leave layers out that are not \
                    needed"
            ),
        ));
    }
    // A preview picture in the file would be unpacked for nothing, whatever its size: its section
    // is renamed to one that nobody knows.
    let mut bytes = bytes.to_vec();
    let name = b"THUMBNAILIMAGE";
    let mut at = 0;
    while at + name.len() <= bytes.len() {
        if bytes[at..].starts_with(name) {
            bytes[at] = b'X';
            at += name.len();
        } else {
            at += 1;
        }
    }
    // The file is anybody's: whatever trips the parser is a fault of the file, not of the server.
    let loaded = std::panic::catch_unwind(|| dxf::Drawing::load(&mut &bytes[..]));
    let file = match loaded {
        Ok(Ok(file)) => file,
        Ok(Err(e)) => return Err(ReadError::one("file", words(&e))),
        Err(_) => return Err(ReadError::one("file", "can't be read as DXF")),
    };
    let mut spread = Spread {
        blocks: HashMap::new(),
        out: Drawing::default(),
        points: 0,
        pieces: 0,
        near: 1e-3,
    };
    for block in file.blocks() {
        spread.blocks.insert(block.name.to_uppercase(), block);
    }
    spread.out.metres = metres(file.header.default_drawing_units);
    for (n, entity) in file.entities().enumerate() {
        spread.entity(entity, Placing::HERE, &mut Vec::new(), n + 1)?;
    }
    spread.finish()
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
                && std::str::from_utf8(text)
                    .ok()
                    .and_then(|t| t.parse::<i32>().ok())
                    .is_none()
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
        return Err(ReadError::one(
            "file",
            "ends in the middle: it was cut off on the way here",
        ));
    }
    if records < 2 {
        Err(ReadError::one("file", "is not DXF: it has no sections"))
    } else {
        Ok(records)
    }
}

fn words(error: &dxf::DxfError) -> String {
    use dxf::DxfError::{
        ExpectedTableType, ParseError, ParseFloatError, ParseIntError, UnexpectedByte, UnexpectedCode,
        UnexpectedCodePair, UnexpectedEndOfInput, UnexpectedEnumValue, WrongValueType,
    };
    match error {
        ParseFloatError(_, line) | ParseIntError(_, line) => format!("line {line}: a number is expected"),
        ParseError(line)
        | UnexpectedEnumValue(line)
        | ExpectedTableType(line)
        | WrongValueType(line)
        | UnexpectedByte(_, line)
        | UnexpectedCode(_, line) => {
            format!("line {line}: not as DXF has it")
        }
        UnexpectedCodePair(pair, what) => format!("line {}: not as DXF has it ({what})", pair.offset),
        UnexpectedEndOfInput => "ends in the middle: it was cut off on the way here".into(),
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
    const HERE: Self = Self {
        x: (1.0, 0.0),
        y: (0.0, 1.0),
        at: (0.0, 0.0),
    };

    fn of(self, x: f64, y: f64) -> Point {
        Point::new(
            self.at.0 + x * self.x.0 + y * self.y.0,
            self.at.1 + x * self.x.1 + y * self.y.1,
        )
    }
    /// A placing within this one.
    fn then(self, inner: Self) -> Self {
        let turn = |v: (f64, f64)| (v.0 * self.x.0 + v.1 * self.y.0, v.0 * self.x.1 + v.1 * self.y.1);
        let at = self.of(inner.at.0, inner.at.1);
        Self {
            x: turn(inner.x),
            y: turn(inner.y),
            at: (at.x, at.y),
        }
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
    near: f64,
}

impl Spread<'_> {
    fn layer(&mut self, name: &str) -> Result<&mut Layer, ReadError> {
        let name: String = name.chars().filter(|c| !c.is_control()).take(100).collect();
        if self.out.layers.len() >= MOST_LAYERS && !self.out.layers.contains_key(&name) {
            return Err(ReadError::one(
                "file",
                format!("has more than {MOST_LAYERS} layers"),
            ));
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
                        blocks spread out"
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
            return Err(ReadError::one(
                format!("element {n}"),
                "has a coordinate that is no number, or further off than any site",
            ));
        }
        let layer = self.layer(layer)?;
        if closed && vertices.len() > 1 {
            layer
                .closed
                .push((Shape::plain(Outline(vertices)), String::new()));
        } else if vertices.len() > 1 {
            layer.open.push(Path(vertices));
        }
        Ok(())
    }

    fn entity(
        &mut self,
        entity: &Entity,
        placing: Placing,
        within: &mut Vec<String>,
        n: usize,
    ) -> Result<(), ReadError> {
        if entity.common.is_in_paper_space {
            self.out.unused("things on paper sheets");
            return Ok(());
        }
        let name = entity.common.layer.as_str();
        // Seen from below, x runs the other way.
        let seen = |normal: &dxf::Vector| {
            if normal.z < 0.0 {
                placing.then(Placing {
                    x: (-1.0, 0.0),
                    y: (0.0, 1.0),
                    at: (0.0, 0.0),
                })
            } else {
                placing
            }
        };
        match &entity.specific {
            EntityType::Line(l) => self.line(
                name,
                straight(&[placing.of(l.p1.x, l.p1.y), placing.of(l.p2.x, l.p2.y)]),
                false,
                n,
            ),
            EntityType::LwPolyline(p) => {
                let here = seen(&p.extrusion_direction);
                self.bulged(
                    name,
                    p.vertices.iter().map(|v| (v.x, v.y, v.bulge)),
                    p.is_closed(),
                    here,
                    n,
                )
            }
            EntityType::Polyline(p) => {
                let here = seen(&p.normal);
                // Frames of curves are not the curve.
                self.bulged(
                    name,
                    p.vertices()
                        .filter(|v| v.flags & 16 == 0)
                        .map(|v| (v.location.x, v.location.y, v.bulge)),
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
                self.bulged(
                    name,
                    corners.into_iter().map(|((x, y), b)| (x, y, b)),
                    false,
                    seen(&a.normal),
                    n,
                )
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
                        "is a circle with a figure that is no number",
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
                let at = |t: f64| {
                    placing.of(
                        e.center.x + mx * t.cos() - my * e.minor_axis_ratio * t.sin(),
                        e.center.y + my * t.cos() + mx * e.minor_axis_ratio * t.sin(),
                    )
                };
                let pieces = if closed { 95 } else { 96 };
                let points: Vec<Point> = (0..=pieces)
                    .map(|i| at(from + (to - from) * f64::from(i) / 96.0))
                    .collect();
                self.line(name, straight(&points), closed, n)
            }
            EntityType::Spline(s) => {
                let place = |p: &dxf::Point| placing.of(p.x, p.y);
                let control: Vec<Point> = s.control_points.iter().map(place).collect();
                let flat = usize::try_from(s.degree_of_curve)
                    .ok()
                    .and_then(|degree| flatten(degree, &s.knot_values, &control, &s.weight_values));
                match flat
                    .or_else(|| (s.fit_points.len() > 1).then(|| s.fit_points.iter().map(place).collect()))
                {
                    Some(mut points) => {
                        let closed =
                            points.len() > 3 && points[0].distance(points[points.len() - 1]) < self.near;
                        if closed {
                            points.pop();
                        }
                        self.line(name, straight(&points), closed, n)
                    }
                    None => {
                        self.out.unused("splines without a shape");
                        Ok(())
                    }
                }
            }
            EntityType::Text(t) => self.text(name, placing.of(t.location.x, t.location.y), &t.value, n),
            EntityType::MText(t) => {
                let all: String = t
                    .extended_text
                    .iter()
                    .map(String::as_str)
                    .chain([t.text.as_str()])
                    .collect();
                self.text(
                    name,
                    placing.of(t.insertion_point.x, t.insertion_point.y),
                    &plain(&all),
                    n,
                )
            }
            EntityType::ModelPoint(p) => {
                self.count(1, n)?;
                let at = placing.of(p.location.x, p.location.y);
                if !(at.x.abs() < FURTHEST && at.y.abs() < FURTHEST && p.location.z.abs() < FURTHEST) {
                    return Err(ReadError::one(
                        format!("element {n}"),
                        "is a point with a figure that is no number",
                    ));
                }
                self.layer(name)?
                    .points
                    .push((at, (p.location.z != 0.0).then_some(p.location.z)));
                Ok(())
            }
            EntityType::Insert(i) => self.insert(i, placing, within, n),
            other => {
                self.out.unused(kind_word(other));
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
        for (x, y, bulge) in corners {
            let at = placing.of(x, y);
            // A corner said twice is one; the bend of the second counts.
            if let Some(last) = vertices.last_mut()
                && last.at == at
            {
                last.bulge = bulge * flip;
                continue;
            }
            vertices.push(Vertex {
                at,
                bulge: bulge * flip,
            });
        }
        let ends_where_it_began = vertices.len() > 2 && vertices[0].at == vertices[vertices.len() - 1].at;
        if ends_where_it_began {
            vertices.pop();
        }
        if !placing.is_even() && vertices.iter().any(|v| v.bulge != 0.0) {
            // A stretched arc is no arc of a circle: straight pieces.
            vertices = straight(&Path(vertices).flat(1e-3));
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
        within: &mut Vec<String>,
        n: usize,
    ) -> Result<(), ReadError> {
        let name = i.name.to_uppercase();
        if within.contains(&name) {
            return Err(ReadError::one(
                format!("element {n}"),
                format!(
                    "block ‘{}’ holds itself",
                    i.name.chars().take(60).collect::<String>()
                ),
            ));
        }
        if within.len() >= DEEPEST {
            return Err(ReadError::one(
                format!("element {n}"),
                format!("blocks within blocks more than {DEEPEST} deep"),
            ));
        }
        let Some(block) = self.blocks.get(&name).copied() else {
            self.out.unused("blocks that the file does not hold");
            return Ok(());
        };
        let (sin, cos) = i.rotation.to_radians().sin_cos();
        let (columns, rows) = (i.column_count.clamp(1, 100), i.row_count.clamp(1, 100));
        within.push(name);
        for (row, column) in (0..rows).flat_map(|r| (0..columns).map(move |c| (r, c))) {
            let (dx, dy) = (
                f64::from(column) * i.column_spacing,
                f64::from(row) * i.row_spacing,
            );
            let stand = Placing {
                x: (cos * i.x_scale_factor, sin * i.x_scale_factor),
                y: (-sin * i.y_scale_factor, cos * i.y_scale_factor),
                at: (
                    i.location.x + cos * dx - sin * dy,
                    i.location.y + sin * dx + cos * dy,
                ),
            };
            let back = Placing {
                at: (-block.base_point.x, -block.base_point.y),
                ..Placing::HERE
            };
            let here = placing.then(stand).then(back);
            // What is of no use counts as well: blocks in blocks of it would else be spread for ever.
            self.count(0, n)?;
            for entity in &block.entities {
                self.count(0, n)?;
                self.entity(entity, here, within, n)?;
            }
        }
        within.pop();
        Ok(())
    }

    /// Loose lines are joined; empty layers go.
    fn finish(mut self) -> Result<Drawing, ReadError> {
        let size = self.out.bounds().map_or(0.0, |(a, b)| a.distance(b));
        let near = (size * 1e-7).max(1e-6);
        for layer in self.out.layers.values_mut() {
            let (closed, open) = chain(std::mem::take(&mut layer.open), near);
            layer
                .closed
                .extend(closed.into_iter().map(|s| (s, String::new())));
            layer.open = open;
        }
        self.out.layers.retain(|_, l| !l.is_empty());
        Ok(self.out)
    }
}

fn straight(points: &[Point]) -> Vec<Vertex> {
    points.iter().map(|&at| Vertex { at, bulge: 0.0 }).collect()
}

/// Text without its marks of type: `{\\fArial;Lawn}\\Pwest` reads `Lawn west`.
fn plain(text: &str) -> String {
    let mut out = String::new();
    let mut letters = text.chars();
    while let Some(c) = letters.next() {
        match c {
            '{' | '}' => {}
            '\\' => match letters.next() {
                Some('P' | 'n' | '~') => out.push(' '),
                Some('\\') => out.push('\\'),
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

fn kind_word(kind: &EntityType) -> &'static str {
    match kind {
        EntityType::RotatedDimension(_)
        | EntityType::RadialDimension(_)
        | EntityType::DiameterDimension(_)
        | EntityType::AngularThreePointDimension(_)
        | EntityType::OrdinateDimension(_) => "dimensions",
        EntityType::Image(_) => "pictures",
        EntityType::Face3D(_) | EntityType::Solid(_) | EntityType::Trace(_) => "filled faces",
        EntityType::Leader(_) | EntityType::MLine(_) => "leaders and multilines",
        EntityType::Ray(_) | EntityType::XLine(_) => "lines without an end",
        EntityType::AttributeDefinition(_) | EntityType::Attribute(_) => "attributes",
        EntityType::Region(_) | EntityType::Body(_) | EntityType::Solid3D(_) => "solids",
        _ => "other things",
    }
}
