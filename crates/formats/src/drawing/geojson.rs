//! GeoJSON (RFC 7946). What we write is in metres of the job's own plane, and says so; what comes
//! from elsewhere may be longitude and latitude, which are brought to a plane at its middle.

use super::{Drawing, FURTHEST, MOST_LAYERS, MOST_PIECES, MOST_POINTS, bounded};
use crate::error::ReadError;
use fenlo_core::catalogue::Catalogue;
use fenlo_core::drip::{Laid, lay};
use fenlo_core::job::Job;
use fenlo_core::plan::{DrawnHead, LegOf, Plan};
use fenlo_core::site::{Area, Form, KeepDry, ObjectKind, Outline, Path, Point, Shape, SiteObject};
use geojson::{FeatureReader, GeometryValue, Position};
use serde::Deserialize;
use serde::de::IgnoredAny;
use serde_json::error::Category;
use serde_json::{Value, json};
use std::borrow::Cow;

/// Arcs are cut into pieces that stay so near to them, metres.
const FLAT: f64 = 0.000_4;

/// Reads features, one by one. Layers are named by what a feature says of itself: `kind`, `layer`,
/// `name`; else by the kind of its geometry.
///
/// # Errors
/// The first fault, with the number of its feature.
pub fn read_geojson(bytes: &[u8]) -> Result<Drawing, ReadError> {
    bounded(bytes)?;
    let bytes = &*collection(bytes)?;
    let head = String::from_utf8_lossy(&bytes[..bytes.len().min(4_000)]).into_owned();
    let local = head.contains(LOCAL);
    let mut read = Reading { out: Drawing::default(), points: 0, pieces: 0, degrees: true };
    let mut any = false;
    for (i, feature) in FeatureReader::from_reader(bytes).features().enumerate() {
        let n = i + 1;
        let feature = feature.map_err(|e| ReadError::one(format!("feature {n}"), fault(&e)))?;
        any = true;
        let says = |key: &str| {
            feature.properties.as_ref().and_then(|p| p.get(key)).and_then(Value::as_str).map(str::to_owned)
        };
        let Some(geometry) = &feature.geometry else {
            read.out.unused("features without geometry");
            continue;
        };
        let layer = match (says("is"), says("kind")) {
            (Some(is), Some(kind)) if is == "pipe" => {
                format!("pipe-{kind}-{}", says("of").unwrap_or_default())
            }
            (Some(is), Some(kind)) => format!("{is}-{kind}"),
            (Some(is), None) => is,
            _ => says("kind")
                .or_else(|| says("layer"))
                .or_else(|| says("type"))
                .unwrap_or_else(|| geometry.value.type_name().to_owned()),
        };
        let name = says("name").unwrap_or_default();
        let height = feature
            .properties
            .as_ref()
            .and_then(|p| p.get("height"))
            .and_then(Value::as_f64)
            .filter(|h| h.is_finite());
        read.geometry(&geometry.value, &layer, &name, height, says("text"), n)?;
    }
    if !any {
        return Err(ReadError::one("file", "has no features"));
    }
    read.out.maybe_degrees = read.degrees && !local;
    read.out.metres = local.then_some(1.0);
    read.out.layers.retain(|_, l| !l.is_empty());
    Ok(read.out)
}

/// How a file of ours says that it is in metres.
const LOCAL: &str = "metres on the job's own plane";

/// What stands at the top of a file.
#[derive(Deserialize)]
struct Top {
    #[serde(rename = "type")]
    kind: Option<Value>,
    features: Option<Vec<IgnoredAny>>,
}

/// A file as a collection of features: the reader wants one, and a single feature or a bare geometry is as
/// good.
fn collection(bytes: &[u8]) -> Result<Cow<'_, [u8]>, ReadError> {
    let bytes = bytes.strip_prefix(b"\xef\xbb\xbf").unwrap_or(bytes);
    let top: Top = serde_json::from_slice(bytes).map_err(|e| {
        let why = match e.classify() {
            Category::Eof => "the file is incomplete",
            Category::Data => "this is no GeoJSON: a FeatureCollection is expected",
            Category::Syntax | Category::Io => "is not valid JSON",
        };
        ReadError::one(format!("line {}", e.line().max(1)), why)
    })?;
    let wrapped = |before: &str, after: &str| {
        let mut out = Vec::with_capacity(bytes.len() + 100);
        out.extend(before.as_bytes());
        out.extend(bytes);
        out.extend(after.as_bytes());
        Cow::Owned(out)
    };
    match top.kind.as_ref().and_then(Value::as_str) {
        Some("FeatureCollection") if top.features.as_ref().is_some_and(Vec::is_empty) => {
            Err(ReadError::one("file", "is an empty collection"))
        }
        Some("FeatureCollection") => Ok(Cow::Borrowed(bytes)),
        Some("Feature") => Ok(wrapped(r#"{"type":"FeatureCollection","features":["#, "]}")),
        Some(
            "Point" | "MultiPoint" | "LineString" | "MultiLineString" | "Polygon" | "MultiPolygon"
            | "GeometryCollection",
        ) => Ok(wrapped(
            r#"{"type":"FeatureCollection","features":[{"type":"Feature","properties":{},"geometry":"#,
            "}]}",
        )),
        Some(other) => {
            let other: String = other.chars().take(40).collect();
            Err(ReadError::one(
                "type",
                format!("is ‘{other}’: a FeatureCollection, a Feature or a geometry is expected"),
            ))
        }
        None => {
            Err(ReadError::one("type", "is missing: GeoJSON begins with \"type\": \"FeatureCollection\""))
        }
    }
}

/// What is wrong with a feature, without the names that the reader has for its own parts.
fn fault(error: &geojson::Error) -> String {
    let text = error.to_string();
    let known = [
        ("coordinates", "its coordinates do not match its geometry type"),
        ("geometry", "its geometry is not one that GeoJSON knows"),
        ("properties", "its properties are no object"),
        ("type", "it does not say that it is a Feature"),
    ];
    let lower = text.to_lowercase();
    let said = known.iter().find(|k| lower.contains(k.0)).map(|k| k.1);
    said.unwrap_or("it is not as GeoJSON has a feature: type, properties, geometry").to_owned()
}

struct Reading {
    out: Drawing,
    points: usize,
    pieces: usize,
    degrees: bool,
}

impl Reading {
    fn place(&mut self, p: &Position, n: usize) -> Result<Point, ReadError> {
        self.points += 1;
        let (x, y) = match p.as_slice() {
            [x, y, ..] => (*x, *y),
            _ => {
                return Err(ReadError::one(format!("feature {n}"), "has a position without two figures"));
            }
        };
        if self.points > MOST_POINTS || self.pieces > MOST_PIECES {
            return Err(ReadError::one(
                format!("feature {n}"),
                format!("the drawing grows beyond {MOST_PIECES} pieces or {MOST_POINTS} corners"),
            ));
        }
        if !(x.abs() < FURTHEST && y.abs() < FURTHEST) {
            return Err(ReadError::one(format!("feature {n}"), "has a coordinate further off than any site"));
        }
        self.degrees &= x.abs() <= 180.0 && y.abs() <= 90.0;
        Ok(Point::new(x, y))
    }

    fn line(&mut self, positions: &[Position], n: usize) -> Result<Vec<Point>, ReadError> {
        let mut points: Vec<Point> = Vec::with_capacity(positions.len());
        for p in positions {
            let p = self.place(p, n)?;
            if points.last() != Some(&p) {
                points.push(p);
            }
        }
        Ok(points)
    }

    fn polygon(&mut self, rings: &[Vec<Position>], n: usize) -> Result<Option<Shape>, ReadError> {
        let mut outlines = Vec::new();
        for ring in rings {
            let mut points = self.line(ring, n)?;
            if points.len() > 1 && points.first() == points.last() {
                points.pop();
            }
            outlines.push(Outline::straight(&points));
        }
        let mut outlines = outlines.into_iter();
        Ok(outlines.next().map(|outline| Shape { outline, holes: outlines.collect() }))
    }

    fn geometry(
        &mut self,
        value: &GeometryValue,
        layer: &str,
        name: &str,
        height: Option<f64>,
        text: Option<String>,
        n: usize,
    ) -> Result<(), ReadError> {
        let key: String = layer.chars().filter(|c| !c.is_control()).take(100).collect();
        if self.out.layers.len() >= MOST_LAYERS && !self.out.layers.contains_key(&key) {
            return Err(ReadError::one(
                format!("feature {n}"),
                format!("more than {MOST_LAYERS} feature types"),
            ));
        }
        self.pieces += 1;
        let name: String = name.chars().filter(|c| !c.is_control()).take(100).collect();
        match value {
            GeometryValue::Point { coordinates } => {
                let at = self.place(coordinates, n)?;
                let z = height.or_else(|| {
                    coordinates.as_slice().get(2).copied().filter(|z| z.is_finite() && *z != 0.0)
                });
                let layer = self.out.layers.entry(key).or_default();
                match text {
                    Some(text) => {
                        layer.texts.push((at, text.chars().filter(|c| !c.is_control()).take(500).collect()))
                    }
                    None => layer.points.push((at, z)),
                }
            }
            GeometryValue::MultiPoint { coordinates } => {
                for p in coordinates {
                    let at = self.place(p, n)?;
                    self.out.layers.entry(key.clone()).or_default().points.push((at, None));
                }
            }
            GeometryValue::LineString { coordinates } => {
                let points = self.line(coordinates, n)?;
                if points.len() > 1 {
                    self.out.layers.entry(key).or_default().open.push(Path::straight(&points));
                }
            }
            GeometryValue::MultiLineString { coordinates } => {
                for line in coordinates {
                    let points = self.line(line, n)?;
                    if points.len() > 1 {
                        self.out.layers.entry(key.clone()).or_default().open.push(Path::straight(&points));
                    }
                }
            }
            GeometryValue::Polygon { coordinates } => {
                if let Some(shape) = self.polygon(coordinates, n)? {
                    self.out.layers.entry(key).or_default().closed.push((shape, name));
                }
            }
            GeometryValue::MultiPolygon { coordinates } => {
                for rings in coordinates {
                    if let Some(shape) = self.polygon(rings, n)? {
                        self.out.layers.entry(key.clone()).or_default().closed.push((shape, name.clone()));
                    }
                }
            }
            GeometryValue::GeometryCollection { geometries } => {
                for g in geometries {
                    self.geometry(&g.value, layer, &name, height, None, n)?;
                }
            }
        }
        Ok(())
    }
}

/// The board as a FeatureCollection in metres of the job's plane.
pub fn write_geojson(job: &Job) -> String {
    let plan: &Plan = job;
    let position = |p: Point| json!([p.x, p.y]);
    let ring = |outline: &Outline, ccw: bool| {
        let outline = if (outline.signed_area() > 0.0) == ccw { outline.clone() } else { outline.reversed() };
        let mut points = outline.flat(FLAT);
        points.extend(points.first().copied());
        Value::Array(points.into_iter().map(position).collect())
    };
    let polygon = |s: &Shape| {
        let rings: Vec<Value> =
            std::iter::once(ring(&s.outline, true)).chain(s.holes.iter().map(|h| ring(h, false))).collect();
        json!({ "type": "Polygon", "coordinates": rings })
    };
    let feature = |thing: &SiteObject| {
        let (geometry, mut properties) = match &thing.what {
            ObjectKind::Area(Area { kind, shape, .. }) => {
                (polygon(shape), json!({ "is": "area", "kind": kind }))
            }
            ObjectKind::Dry(KeepDry { kind, form: Form::Region(shape), .. }) => {
                (polygon(shape), json!({ "is": "dry", "kind": kind }))
            }
            ObjectKind::Dry(KeepDry { kind, form: Form::Line(path), .. }) => (
                json!({ "type": "LineString", "coordinates": path.flat(FLAT).into_iter().map(position).collect::<Vec<_>>() }),
                json!({ "is": "dry", "kind": kind }),
            ),
            ObjectKind::Place(p) => (
                json!({ "type": "Point", "coordinates": position(p.at) }),
                json!({ "is": "place", "kind": p.kind }),
            ),
            ObjectKind::Plant(p) => {
                let points: Vec<Value> = p.spots().into_iter().map(position).collect();
                (
                    json!({ "type": "MultiPoint", "coordinates": points }),
                    json!({ "is": "plants", "canopy": p.canopy.m() }),
                )
            }
            ObjectKind::Height(h) => (
                json!({ "type": "Point", "coordinates": position(h.at) }),
                json!({ "is": "heights", "height": h.height.m() }),
            ),
            ObjectKind::Note(n) => (
                json!({ "type": "Point", "coordinates": position(n.at) }),
                json!({ "is": "notes", "text": n.text }),
            ),
        };
        if !thing.name.is_empty() {
            properties["name"] = json!(thing.name);
        }
        json!({ "type": "Feature", "geometry": geometry, "properties": properties })
    };
    let heads = plan.groups.iter().filter(|g| g.drip.is_none()).flat_map(|g| {
        g.drawn.iter().map(move |h| {
            let properties = json!({ "is": "heads", "nozzle": g.nozzle, "arc": h.arc, "facing": h.facing, "valve": h.valve });
            json!({ "type": "Feature", "geometry": { "type": "Point", "coordinates": [h.at.x, h.at.y] }, "properties": properties })
        })
    });
    // Drip follows from the job: it is shown and not read again.
    let drip = plan.groups.iter().filter(|g| g.drip.is_some()).flat_map(|g| {
        let parts = lay(job, g).unwrap_or_default();
        let part = |(laid, inlet): (&Laid, &DrawnHead)| {
            let lines: Vec<Value> = if laid.rows.is_empty() {
                let tubes = laid.tubes.iter();
                tubes.map(|t| json!([position(laid.joints[t.from].at), position(laid.joints[t.to].at)])).collect()
            } else {
                laid.rows.iter().map(|r| json!([position(r.from), position(r.to)])).collect()
            };
            let properties = json!({
                "is": "drip-rows", "group": g.id, "nozzle": g.nozzle, "valve": inlet.valve, "rows": laid.rows.len(),
                "emitters": laid.emitters.len(), "tubing_m": laid.dripline().m(), "flow_lpm": laid.flow().lpm(),
            });
            json!({ "type": "Feature", "geometry": { "type": "MultiLineString", "coordinates": lines }, "properties": properties })
        };
        parts.iter().zip(&g.drawn).map(part).collect::<Vec<_>>()
    });
    let pipes = plan.piping.legs.iter().filter_map(|leg| {
        let way: Vec<Value> = plan.way_of(leg)?.into_iter().map(position).collect();
        let (kind, of) = match &leg.of {
            LegOf::Main(supply) => ("main", supply),
            LegOf::Lateral(valve) => ("lateral", valve),
        };
        let inside = Catalogue::builtin().pipe(&leg.pipe).map(|p| p.inside.mm());
        let properties = json!({
            "is": "pipe", "kind": kind, "of": of, "id": leg.id, "from": leg.from, "to": leg.to, "pipe": leg.pipe,
            "inside_mm": inside, "depth_m": leg.depth.map(|d| d.m()), "sleeve": leg.sleeve, "pinned": leg.size_pinned,
        });
        Some(json!({ "type": "Feature", "geometry": { "type": "LineString", "coordinates": way }, "properties": properties }))
    });
    let joints = plan.piping.joints.iter().map(|j| {
        let properties = json!({ "is": "joint", "kind": j.kind, "id": j.id });
        json!({ "type": "Feature", "geometry": { "type": "Point", "coordinates": [j.at.x, j.at.y] }, "properties": properties })
    });
    let things = plan.site.objects.iter().map(feature);
    let features: Vec<Value> = things.chain(heads).chain(drip).chain(pipes).chain(joints).collect();
    // The note on the plane comes first, so that a reader meets it before any figure.
    format!(
        "{{\"type\":\"FeatureCollection\",\"plane\":\"{LOCAL}\",\"name\":{},\"features\":{}}}\n",
        json!(plan.name),
        Value::Array(features)
    )
}
