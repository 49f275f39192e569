//! From a drawing to things, once somebody has said what each layer is.

use super::join::NAMES;
use super::{Drawing, Layer, heights};
use fenlo_core::board::NewKind;
use fenlo_core::plan::LegOf;
use fenlo_core::site::{
    DryKind, Form, KeepDry, MOST_CORNERS, MOST_OBJECTS, Note, ObjectKind, Outline, Path, PlaceKind,
    PlaceMark, Planting, Point, Shape, SiteObject, SpotHeight, Vertex,
};
use fenlo_core::units::Length;
use std::collections::BTreeMap;

/// What a layer is.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum LayerUse {
    /// Left out.
    Skip,
    /// Its outlines are ground of a kind; for walls and windows its lines.
    Ground(NewKind),
    /// Its circles and points are plants.
    Plants,
    /// Its points, and texts that are numbers, are heights.
    Heights,
    /// Its texts are notes.
    Notes,
    /// Its points are places.
    Place(PlaceKind),
    /// Its lines are pipe of the main or lateral that the layer is named after.
    Pipe,
}

impl LayerUse {
    /// As in forms: `skip`, `area:lawn`, `dry:wall`, `plants`, `place:meter`.
    pub fn parse(text: &str) -> Option<Self> {
        let kind = |k: &str| serde_json::Value::String(k.to_owned());
        Some(match text.split_once(':') {
            Some(("area", k)) => Self::Ground(NewKind::Area(serde_json::from_value(kind(k)).ok()?)),
            Some(("dry", k)) => Self::Ground(NewKind::Dry(serde_json::from_value(kind(k)).ok()?)),
            Some(("place", k)) => Self::Place(serde_json::from_value(kind(k)).ok()?),
            None if text == "skip" => Self::Skip,
            None if text == "plants" => Self::Plants,
            None if text == "heights" => Self::Heights,
            None if text == "notes" => Self::Notes,
            None if text == "pipe" => Self::Pipe,
            _ => return None,
        })
    }
}

/// What a layer of this name may well be, as in forms.
pub fn guess(name: &str) -> &'static str {
    let name = name.to_lowercase();
    if pipe_of(&name).is_some() {
        return "pipe";
    }
    if ["pipe-", "joint-", "trenches", "sleeves", "crossings", "drip-"]
        .iter()
        .any(|own| name.starts_with(own))
    {
        return "skip";
    }
    // Our own layers first, then everyday words.
    let known: [(&str, &str); 44] = [
        ("area-lawn", "area:lawn"),
        ("area-bed", "area:bed"),
        ("area-hedge", "area:hedge"),
        ("area-slope", "area:slope"),
        ("area-trees", "area:trees"),
        ("area-containers", "area:containers"),
        ("area-vegetables", "area:vegetables"),
        ("dry-building", "dry:building"),
        ("dry-wall", "dry:wall"),
        ("dry-window", "dry:window"),
        ("dry-paving", "dry:paving"),
        ("dry-path", "dry:path"),
        ("dry-car-park", "dry:car-park"),
        ("dry-neighbour", "dry:neighbour"),
        ("place-water", "place:water"),
        ("place-meter", "place:meter"),
        ("place-power", "place:power"),
        ("place-controller", "place:controller"),
        ("place-valve-box", "place:valve-box"),
        ("names", "skip"),
        ("heads", "skip"),
        ("throw", "skip"),
        ("lawn", "area:lawn"),
        ("grass", "area:lawn"),
        ("turf", "area:lawn"),
        ("shrub", "area:bed"),
        ("bed", "area:bed"),
        ("hedge", "area:hedge"),
        ("veg", "area:vegetables"),
        ("tree", "plants"),
        ("plant", "plants"),
        ("house", "dry:building"),
        ("build", "dry:building"),
        ("bldg", "dry:building"),
        ("fence", "dry:wall"),
        ("wall", "dry:wall"),
        ("park", "dry:car-park"),
        ("drive", "dry:paving"),
        ("pav", "dry:paving"),
        ("walk", "dry:path"),
        ("path", "dry:path"),
        ("meter", "place:meter"),
        ("height", "heights"),
        ("note", "notes"),
    ];
    let more: [(&str, &str); 4] =
        [("level", "heights"), ("spot", "heights"), ("elev", "heights"), ("text", "notes")];
    known.iter().chain(&more).find(|(word, _)| name.contains(word)).map_or("skip", |(_, to)| to)
}

/// The main or lateral that a layer is named after: `pipe-main-s1`, `pipe-lateral-v2`.
fn pipe_of(layer: &str) -> Option<LegOf> {
    let of = |prefix: &str| layer.strip_prefix(prefix).filter(|id| !id.is_empty()).map(str::to_owned);
    let main = of("pipe-main-").map(LegOf::Main);
    main.or_else(|| of("pipe-lateral-").map(LegOf::Lateral))
}

/// What came in.
#[derive(Debug, Clone, PartialEq)]
pub struct Imported {
    /// To be put on the board.
    pub things: Vec<SiteObject>,
    /// Pipe, by whose it is and the way it runs.
    pub pipes: Vec<(LegOf, Vec<Point>)>,
    /// What was left out, moved or thinned, in words.
    pub told: Vec<String>,
}

/// Makes things of the layers that are used. `metres` to one unit of the file; for longitude and
/// latitude `None`. `id` gives a new name each time.
///
/// # Errors
/// More than a board may hold.
pub fn import(
    drawing: &Drawing,
    uses: &BTreeMap<String, LayerUse>,
    metres: Option<f64>,
    mut id: impl FnMut() -> String,
) -> Result<Imported, String> {
    let mut told: Vec<String> =
        drawing.unused.iter().map(|(what, n)| format!("{n} {what}: not used, skipped")).collect();
    let plane = Plane::of(drawing, metres, &mut told);
    let mut make = Make { plane, told, things: Vec::new(), pipes: Vec::new() };
    for (name, layer) in &drawing.layers {
        match uses.get(name).copied().unwrap_or(LayerUse::Skip) {
            LayerUse::Skip => {}
            used => make.layer(name, layer, used, &mut id),
        }
        if make.things.len() > MOST_OBJECTS {
            return Err(format!("these layers hold more than {MOST_OBJECTS} objects. Skip some"));
        }
    }
    if let Some(names) = drawing.layers.get(NAMES) {
        make.call(names);
    }
    Ok(Imported { things: make.things, pipes: make.pipes, told: make.told })
}

/// From figures of the file to metres of the board.
enum Plane {
    /// Times a factor, less a shift in metres.
    Flat { metres: f64, shift: Point },
    /// Degrees from a corner: metres to a degree of longitude and of latitude.
    Globe { corner: Point, east: f64, north: f64 },
}

impl Plane {
    fn of(drawing: &Drawing, metres: Option<f64>, told: &mut Vec<String>) -> Self {
        let (low, high) = drawing.bounds().unwrap_or_default();
        match metres {
            Some(metres) => {
                let far = [low, high].iter().any(|p| p.x.abs().max(p.y.abs()) * metres > 5_000.0);
                if far {
                    told.push(
                        "the drawing was far from its origin and was moved: its lower left corner is now \
                            0, 0"
                            .into(),
                    );
                }
                Self::Flat { metres, shift: if far { low * metres } else { Point::default() } }
            }
            None => {
                // Radii of curvature of the earth at the middle (WGS 84; Torge 2001, Geodesy).
                let middle = low.middle(high);
                let (a, e2) = (6_378_137.0, 0.006_694_379_990_14_f64);
                let (sin, cos) = middle.y.to_radians().sin_cos();
                let w = (1.0 - e2 * sin * sin).sqrt();
                let (across, along) = (a / w, a * (1.0 - e2) / (w * w * w));
                told.push(format!(
                    "longitude and latitude were projected around {:.5}, {:.5}",
                    middle.x, middle.y
                ));
                Self::Globe { corner: low, east: (across * cos).to_radians(), north: along.to_radians() }
            }
        }
    }
    fn of_point(&self, p: Point) -> Point {
        match self {
            Self::Flat { metres, shift } => p * *metres - *shift,
            Self::Globe { corner, east, north } => {
                Point::new((p.x - corner.x) * east, (p.y - corner.y) * north)
            }
        }
    }
    fn of_length(&self, length: f64) -> f64 {
        match self {
            Self::Flat { metres, .. } => length * metres,
            Self::Globe { north, .. } => length * north,
        }
    }
}

struct Make {
    plane: Plane,
    told: Vec<String>,
    things: Vec<SiteObject>,
    pipes: Vec<(LegOf, Vec<Point>)>,
}

impl Make {
    /// Gives ground the names that are written on it: each to the smallest thing about it that has none.
    fn call(&mut self, names: &Layer) {
        for (at, name) in &names.texts {
            let at = self.plane.of_point(*at);
            let about = self.things.iter_mut().filter(|t| t.shape().is_some_and(|s| s.contains(at)));
            let size = |t: &&mut SiteObject| t.shape().map_or(f64::MAX, Shape::area_m2);
            if let Some(thing) = about.min_by(|a, b| size(a).total_cmp(&size(b)))
                && thing.name.is_empty()
                && thing.kind_word() != name
            {
                thing.name.clone_from(name);
            }
        }
    }

    fn put(&mut self, id: String, name: &str, what: ObjectKind) {
        self.things.push(SiteObject { id, name: name.to_owned(), what });
    }

    fn vertices(&self, vertices: &[Vertex]) -> Vec<Vertex> {
        let mut out: Vec<Vertex> = Vec::with_capacity(vertices.len());
        for v in vertices {
            let at = self.plane.of_point(v.at);
            match out.last_mut() {
                Some(last) if last.at.distance(at) < fenlo_core::site::SAME => last.bulge = v.bulge,
                _ => out.push(Vertex { at, bulge: v.bulge }),
            }
        }
        out
    }

    fn ring(&mut self, name: &str, ring: &Outline) -> Outline {
        let mut vertices = self.vertices(&ring.0);
        while vertices.len() > 2
            && vertices[0].at.distance(vertices[vertices.len() - 1].at) < fenlo_core::site::SAME
        {
            vertices.pop();
        }
        if vertices.len() > MOST_CORNERS {
            let n = vertices.len();
            let (thinned, within) = thin(&vertices, MOST_CORNERS / 2);
            self.told.push(format!(
                "an outline with {n} corners on ‘{name}’ was simplified to {} within {:.0} mm",
                thinned.len(),
                within * 1000.0
            ));
            vertices = thinned;
        }
        Outline(vertices)
    }

    fn layer(&mut self, name: &str, layer: &Layer, used: LayerUse, id: &mut impl FnMut() -> String) {
        match used {
            LayerUse::Skip => {}
            LayerUse::Ground(NewKind::Dry(kind @ (DryKind::Wall | DryKind::Window))) => {
                let rings = layer.closed.iter().map(|(s, _)| {
                    let mut v = s.outline.0.clone();
                    v.extend(v.first().copied());
                    v
                });
                let lines: Vec<Vec<Vertex>> = rings.chain(layer.open.iter().map(|p| p.0.clone())).collect();
                for line in lines {
                    let line = self.vertices(&line);
                    if line.len() > 1 && line.len() <= MOST_CORNERS {
                        self.put(
                            id(),
                            "",
                            ObjectKind::Dry(KeepDry { kind, height: None, form: Form::Line(Path(line)) }),
                        );
                    } else {
                        self.told
                            .push(format!("a line on ‘{name}’ has no length, or too many points: left out"));
                    }
                }
            }
            LayerUse::Ground(kind) => {
                for (shape, called) in &layer.closed {
                    let outline = self.ring(name, &shape.outline);
                    let holes = shape.holes.iter().map(|h| self.ring(name, h)).collect();
                    let shape = Shape { outline, holes };
                    match shape.check() {
                        Ok(()) => {
                            let mut thing = kind.thing(&id(), shape);
                            thing.name.clone_from(called);
                            self.things.push(thing);
                        }
                        Err(fault) => self.told.push(format!("an outline on ‘{name}’ {fault}: skipped")),
                    }
                }
                for (centre, radius) in &layer.circles {
                    let (c, r) = (self.plane.of_point(*centre), self.plane.of_length(*radius));
                    let outline = Outline(vec![
                        Vertex { at: Point::new(c.x - r, c.y), bulge: 1.0 },
                        Vertex { at: Point::new(c.x + r, c.y), bulge: 1.0 },
                    ]);
                    let shape = Shape::plain(outline);
                    match shape.check() {
                        Ok(()) => self.things.push(kind.thing(&id(), shape)),
                        Err(fault) => self.told.push(format!("a circle on ‘{name}’ {fault}: skipped")),
                    }
                }
                if !layer.open.is_empty() {
                    self.told.push(format!(
                        "{} open lines on ‘{name}’ do not close an area: skipped",
                        layer.open.len()
                    ));
                }
            }
            LayerUse::Plants => {
                for (centre, radius) in &layer.circles {
                    let canopy = Length::from_m((2.0 * self.plane.of_length(*radius)).clamp(0.05, 60.0));
                    self.put(
                        id(),
                        "",
                        ObjectKind::Plant(Planting {
                            canopy,
                            at: self.plane.of_point(*centre),
                            to: None,
                            count: 1,
                        }),
                    );
                }
                for (at, _) in &layer.points {
                    self.put(
                        id(),
                        "",
                        ObjectKind::Plant(Planting {
                            canopy: Length::from_m(1.0),
                            at: self.plane.of_point(*at),
                            to: None,
                            count: 1,
                        }),
                    );
                }
            }
            LayerUse::Heights => {
                let unit = match self.plane {
                    Plane::Flat { metres, .. } => metres,
                    Plane::Globe { .. } => 1.0,
                };
                // Whoever draws in millimetres writes heights in metres.
                let worded = if unit < 0.02 { 1.0 } else { unit };
                let texts = layer.texts.iter().map(|(at, text)| (*at, heights::written(text)));
                let (numbers, words): (Vec<_>, Vec<_>) = texts.partition(|t| t.1.is_some());
                if !words.is_empty() {
                    let (n, s) = (words.len(), if words.len() == 1 { "" } else { "s" });
                    self.told.push(format!("‘{name}’: {n} text{s} without an elevation skipped"));
                }
                if !numbers.is_empty() && worded != unit {
                    self.told.push(format!("elevations on ‘{name}’ were read as meters"));
                }
                let numbers = numbers.into_iter().filter_map(|(at, w)| {
                    let w = w?;
                    Some((at, Some(w.figure * w.metres.unwrap_or(worded))))
                });
                let points = layer.points.iter().map(|(at, h)| (*at, h.map(|h| h * unit)));
                for (at, height) in points.chain(numbers) {
                    let Some(metres) = height else { continue };
                    self.put(
                        id(),
                        "",
                        ObjectKind::Height(SpotHeight {
                            at: self.plane.of_point(at),
                            height: Length::from_m(metres),
                        }),
                    );
                }
            }
            LayerUse::Notes => {
                for (at, text) in &layer.texts {
                    self.put(
                        id(),
                        "",
                        ObjectKind::Note(Note { at: self.plane.of_point(*at), text: text.clone() }),
                    );
                }
            }
            LayerUse::Pipe => match pipe_of(name) {
                Some(of) => {
                    for path in &layer.open {
                        let way = self.vertices(&path.0).iter().map(|v| v.at).collect();
                        self.pipes.push((of.clone(), way));
                    }
                }
                None => self.told.push(format!(
                    "‘{name}’ does not say which pipe it is. Name layers pipe-main-s1 or pipe-lateral-v1 \
                        after the \
                     point of connection or the valve"
                )),
            },
            LayerUse::Place(kind) => {
                for (at, _) in &layer.points {
                    self.put(
                        id(),
                        "",
                        ObjectKind::Place(PlaceMark { kind, at: self.plane.of_point(*at), supply: None }),
                    );
                }
            }
        }
    }
}

/// Fewer corners within a distance that is as small as serves (Douglas and Peucker 1973); gives the
/// distance too. Arcs are first cut straight.
fn thin(vertices: &[Vertex], most: usize) -> (Vec<Vertex>, f64) {
    let points = Outline(vertices.to_vec()).flat(0.001);
    let mut within = 0.001;
    loop {
        let kept = simplify(&points, within);
        if kept.len() <= most {
            return (kept.into_iter().map(|at| Vertex { at, bulge: 0.0 }).collect(), within);
        }
        within *= 2.0;
    }
}

fn simplify(points: &[Point], within: f64) -> Vec<Point> {
    let mut keep = vec![false; points.len()];
    let last = points.len() - 1;
    (keep[0], keep[last]) = (true, true);
    let mut spans = vec![(0, last)];
    while let Some((a, b)) = spans.pop() {
        let off = |p: Point| {
            let (from, to) = (points[a], points[b]);
            match (to - from).unit() {
                Some(along) => (p - from).cross(along).abs(),
                None => p.distance(from),
            }
        };
        let far = (a + 1..b).map(|i| (off(points[i]), i)).max_by(|x, y| x.0.total_cmp(&y.0));
        if let Some((d, i)) = far
            && d > within
        {
            keep[i] = true;
            spans.extend([(a, i), (i, b)]);
        }
    }
    points.iter().zip(keep).filter_map(|(p, k)| k.then_some(*p)).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use fenlo_core::site::AreaKind;

    #[test]
    fn layers_are_guessed_by_everyday_words_and_our_own_names() {
        for (name, what) in [
            ("GRASS-NORTH", "area:lawn"),
            ("L-PLNT-SHRUB", "area:bed"),
            ("Trees existing", "plants"),
            ("BLDG", "dry:building"),
            ("Car park", "dry:car-park"),
            ("footpath", "dry:path"),
            ("boundary FENCE", "dry:wall"),
            ("SPOT LEVELS", "heights"),
            ("Text 2.5", "notes"),
            ("area-vegetables", "area:vegetables"),
            ("place-valve-box", "place:valve-box"),
            ("throw", "skip"),
            ("0", "skip"),
        ] {
            assert_eq!(guess(name), what, "{name}");
            assert!(LayerUse::parse(guess(name)).is_some());
        }
        assert_eq!(LayerUse::parse("area:bed"), Some(LayerUse::Ground(NewKind::Area(AreaKind::Bed))));
        for nonsense in ["", "area", "area:moon", "dry:", "place:bench", "Skip", "plants:1"] {
            assert_eq!(LayerUse::parse(nonsense), None, "{nonsense}");
        }
    }

    #[test]
    fn thinning_keeps_the_outline_within_what_it_says() {
        let ring: Vec<Vertex> = (0..5_000)
            .map(|i| Point::default().toward(f64::from(i) * 0.072, 100.0))
            .map(|at| Vertex { at, bulge: 0.0 })
            .collect();
        let (thinned, within) = thin(&ring, 500);
        assert!(thinned.len() <= 500 && within < 0.1, "{} within {within}", thinned.len());
        // No corner left lies off the circle, and no chord is further in than it says.
        assert!(thinned.iter().all(|v| (v.at.norm() - 100.0).abs() < 1e-9));
        assert!(thinned.windows(2).all(|w| 100.0 - w[0].at.middle(w[1].at).norm() <= within + 1e-9));
    }
}
