use super::combine::cut;
use super::growing::{Exposure, Plants, Soil};
use super::outline::{Outline, Path};
use super::point::{Motion, Point};
use super::shape::{Shape, bounds};
use crate::terms::{Lang, term};
use crate::units::Length;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// Everything drawn.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Site {
    /// What stands on the ground, the first at the bottom of the drawing.
    #[serde(rename = "things", default, skip_serializing_if = "Vec::is_empty")]
    pub objects: Vec<SiteObject>,
    /// Degrees from the top of the sheet to north, clockwise; 0 up to 360.
    #[serde(default)]
    pub north: f64,
    /// A scan or photo beneath the drawing.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub underlay: Option<Underlay>,
}

/// Something on the ground.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct SiteObject {
    /// Stable name in the file.
    pub id: String,
    /// For people; may be empty.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub name: String,
    /// What it is and where.
    pub what: ObjectKind,
}

/// What an object is.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "is", rename_all = "kebab-case")]
pub enum ObjectKind {
    /// Ground to be watered.
    Area(Area),
    /// What must stay dry.
    Dry(KeepDry),
    /// Where something of the system stands.
    Place(PlaceMark),
    /// A plant or a row of them.
    Plant(Planting),
    /// A measured height.
    Height(SpotHeight),
    /// Words on the plan.
    Note(Note),
}

/// Ground to be watered.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Area {
    /// Lawn, bed, hedge...
    pub kind: AreaKind,
    /// What grows there, in words.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub plants: String,
    /// How thirsty it is.
    #[serde(default)]
    pub water_use: WaterUse,
    /// Soil.
    #[serde(default)]
    pub soil: Soil,
    /// Sun.
    #[serde(default)]
    pub exposure: Exposure,
    /// Wind.
    #[serde(default)]
    pub wind: Wind,
    /// Percent, 0 to 100.
    #[serde(default)]
    pub slope_percent: f64,
    /// Which way it falls: degrees clockwise from the top of the sheet, 0 up to 360.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub slope_toward: Option<f64>,
    /// It is planted and watered at some later time: flow, stations and wire are kept back, nothing is
    /// bought.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub later: bool,
    /// Where.
    pub shape: Shape,
}

/// Kinds of ground that are watered.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum AreaKind {
    /// Turf.
    #[default]
    Lawn,
    /// Shrubs and flowers.
    Bed,
    /// A hedge row.
    Hedge,
    /// Planted ground that falls.
    Slope,
    /// Trees.
    Trees,
    /// Pots and boxes.
    Containers,
    /// Vegetable rows.
    Vegetables,
}

impl AreaKind {
    /// Its name.
    pub fn name(self, lang: Lang) -> &'static str {
        let key = match self {
            Self::Lawn => "area.lawn",
            Self::Bed => "area.bed",
            Self::Hedge => "area.hedge",
            Self::Slope => "area.slope",
            Self::Trees => "area.trees",
            Self::Containers => "area.containers",
            Self::Vegetables => "area.vegetables",
        };
        term(key, lang)
    }
}

impl AreaKind {
    /// What grows there, as far as sharing a valve goes; a slope is planted over like a bed.
    pub fn plants(self) -> Plants {
        match self {
            Self::Lawn => Plants::Lawn,
            Self::Bed | Self::Slope => Plants::Bed,
            Self::Hedge => Plants::Hedge,
            Self::Trees => Plants::Trees,
            Self::Containers => Plants::Containers,
            Self::Vegetables => Plants::Vegetables,
        }
    }
}

/// How much water plants want.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum WaterUse {
    /// Little, once established.
    Low,
    /// Some.
    #[default]
    Medium,
    /// Much.
    High,
}

/// Usual wind at the hours of watering.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Wind {
    /// Up to 3 mph (5 km/h).
    #[default]
    Calm,
    /// 4 to 7 mph (6 to 11 km/h).
    Breeze,
    /// 8 to 12 mph (12 to 19 km/h).
    Windy,
}

/// What must stay dry.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct KeepDry {
    /// Building, wall, paving...
    pub kind: DryKind,
    /// How high it stands, for walls and buildings.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub height: Option<Length>,
    /// Where.
    pub form: Form,
}

/// Kinds of objects to be kept dry.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum DryKind {
    /// A house.
    #[default]
    Building,
    /// A wall, drawn as a line.
    Wall,
    /// A window, drawn as a line.
    Window,
    /// Paved ground.
    Paving,
    /// A path.
    Path,
    /// A car park.
    CarPark,
    /// Ground of somebody else.
    Neighbour,
    /// Not to be dug: utilities, roots, what else lies there. Water may fall on it.
    NoDig,
}

impl DryKind {
    /// Its name.
    pub fn name(self, lang: Lang) -> &'static str {
        let key = match self {
            Self::Building => "dry.building",
            Self::Wall => "dry.wall",
            Self::Window => "dry.window",
            Self::Paving => "dry.paving",
            Self::Path => "dry.path",
            Self::CarPark => "dry.car-park",
            Self::Neighbour => "dry.neighbour",
            Self::NoDig => "dry.no-dig",
        };
        term(key, lang)
    }
}

/// Ground taken up, or a line such as a wall.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Form {
    /// Ground.
    Region(Shape),
    /// A line.
    Line(Path),
}

/// Where something of the system stands.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct PlaceMark {
    /// What stands there.
    pub kind: PlaceKind,
    /// Where.
    pub at: Point,
    /// The point of connection it belongs to.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub supply: Option<String>,
}

/// Parts of the system that have a place.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum PlaceKind {
    /// Where the water is taken from.
    #[default]
    Water,
    /// The meter.
    Meter,
    /// Where electricity is taken from.
    Power,
    /// The controller.
    Controller,
    /// A valve box.
    ValveBox,
}

impl PlaceKind {
    /// Its name.
    pub fn name(self, lang: Lang) -> &'static str {
        let key = match self {
            Self::Water => "marker.water",
            Self::Meter => "marker.meter",
            Self::Power => "marker.power",
            Self::Controller => "marker.controller",
            Self::ValveBox => "marker.valve-box",
        };
        term(key, lang)
    }
}

/// A plant, or a row of them from one point to another.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Planting {
    /// Width of one canopy.
    pub canopy: Length,
    /// Where the first stands.
    pub at: Point,
    /// Where the last of a row stands.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub to: Option<Point>,
    /// How many; 1 without a row.
    #[serde(default = "one")]
    pub count: u32,
}

fn one() -> u32 {
    1
}

impl Planting {
    /// Where each stands.
    pub fn spots(&self) -> Vec<Point> {
        match self.to {
            Some(to) if self.count > 1 => (0..self.count)
                .map(|i| self.at + (to - self.at) * (f64::from(i) / f64::from(self.count - 1)))
                .collect(),
            _ => vec![self.at],
        }
    }
}

/// A measured height of the ground over the job's own zero.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct SpotHeight {
    /// Where.
    pub at: Point,
    /// How high.
    pub height: Length,
}

/// Words on the plan.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Note {
    /// Where they begin.
    pub at: Point,
    /// What they say.
    pub text: String,
}

/// A picture beneath the drawing: a scan or a photo, scaled and turned to lie on the ground.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Underlay {
    /// Name of the picture in the store.
    pub picture: String,
    /// Pixels across.
    pub width: u32,
    /// Pixels down.
    pub height: u32,
    /// Where its lower left corner lies.
    pub at: Point,
    /// Ground covered by one pixel.
    pub pixel: Length,
    /// Counter-clockwise about that corner, degrees.
    #[serde(default)]
    pub degrees: f64,
    /// How strongly it shows, 0 to 1.
    #[serde(default = "half")]
    pub strength: f64,
}

fn half() -> f64 {
    0.5
}

impl Underlay {
    /// The same picture, so that two of its points lie `apart` from one another; the first stays
    /// where it is. Points are given as they lie on the ground now.
    ///
    /// # Errors
    /// The points are one, or the length is not more than zero.
    pub fn scaled(&self, from: Point, to: Point, apart: Length) -> Result<Self, &'static str> {
        let now = from.distance(to);
        if now < super::SAME {
            return Err("choose two separate points");
        }
        if !(apart.m() > 0.0 && apart.m().is_finite()) {
            return Err("the length between them must be more than zero");
        }
        let k = apart.m() / now;
        Ok(Self { at: from + (self.at - from) * k, pixel: self.pixel * k, ..self.clone() })
    }

    /// The same picture turned about a point so that the line through two points lies level.
    ///
    /// # Errors
    /// The points are one.
    pub fn levelled(&self, from: Point, to: Point) -> Result<Self, &'static str> {
        if from.distance(to) < super::SAME {
            return Err("choose two separate points");
        }
        let degrees = -from.direction_to(to);
        let motion = Motion::Turn { about: from, degrees };
        Ok(Self {
            at: motion.of(self.at),
            degrees: (self.degrees + degrees).rem_euclid(360.0),
            ..self.clone()
        })
    }
}

impl Site {
    /// The object of this id.
    pub fn object(&self, id: &str) -> Option<&SiteObject> {
        self.objects.iter().find(|t| t.id == id)
    }
    /// The watered area of this id.
    pub fn area(&self, id: &str) -> Option<&Area> {
        match &self.object(id)?.what {
            ObjectKind::Area(area) => Some(area),
            _ => None,
        }
    }
    /// Watered areas.
    pub fn areas(&self) -> impl Iterator<Item = (&SiteObject, &Area)> {
        self.objects.iter().filter_map(|t| match &t.what {
            ObjectKind::Area(area) => Some((t, area)),
            _ => None,
        })
    }
    /// Places of a kind, in the order drawn.
    pub fn places(&self, kind: PlaceKind) -> impl Iterator<Item = (&SiteObject, &PlaceMark)> {
        self.objects.iter().filter_map(move |t| match &t.what {
            ObjectKind::Place(place) if place.kind == kind => Some((t, place)),
            _ => None,
        })
    }
    /// Spot heights.
    pub fn heights(&self) -> Vec<(Point, Length)> {
        let height = |t: &SiteObject| match &t.what {
            ObjectKind::Height(h) => Some((h.at, h.height)),
            _ => None,
        };
        self.objects.iter().filter_map(height).collect()
    }
    /// A point of an object's ground that nothing drawn later lies on, for its name; where all of it is
    /// covered one of its ground.
    pub fn name_point(&self, object: &SiteObject) -> Option<Point> {
        let shape = object.shape()?;
        let own = self.objects.iter().position(|o| o.id == object.id)?;
        let on_top: Vec<&Shape> = self.objects[own + 1..].iter().filter_map(SiteObject::shape).collect();
        let open = cut(shape, &on_top).unwrap_or_default();
        let largest = open.iter().max_by(|a, b| a.area_m2().total_cmp(&b.area_m2()));
        Some(largest.unwrap_or(shape).inner_point())
    }
    /// Where something new may stand: right of all that is drawn with a little room between, level with the
    /// lowest of it; the origin where nothing is drawn. `step`: to the next whole one of these, metres.
    pub fn beside(&self, step: f64) -> Point {
        let boxes = self.objects.iter().filter_map(SiteObject::bounds);
        let all = boxes.reduce(|(a, b), (c, d)| {
            let low = Point::new(a.x.min(c.x), a.y.min(c.y));
            (low, Point::new(b.x.max(d.x), b.y.max(d.y)))
        });
        all.map_or_else(Point::default, |(low, high)| {
            Point::new((high.x / step + 1.0 - 1e-6).ceil() * step, low.y)
        })
    }
    /// As every job begins.
    pub fn is_blank(&self) -> bool {
        *self == Self::default()
    }
    /// Nothing drawn and nothing beneath.
    pub fn is_empty(&self) -> bool {
        self.objects.is_empty() && self.underlay.is_none()
    }
}

impl SiteObject {
    /// Moved, turned or mirrored.
    pub fn moved(&self, motion: Motion) -> Self {
        let mut next = self.clone();
        match &mut next.what {
            ObjectKind::Area(a) => {
                a.shape = a.shape.moved(motion);
                // A slope turns with its area; the compass runs the other way round from the top.
                a.slope_toward =
                    a.slope_toward.map(|d| (90.0 - motion.of_direction(90.0 - d)).rem_euclid(360.0));
            }
            ObjectKind::Dry(d) => {
                d.form = match &d.form {
                    Form::Region(shape) => Form::Region(shape.moved(motion)),
                    Form::Line(path) => Form::Line(path.moved(motion)),
                }
            }
            ObjectKind::Place(p) => p.at = motion.of(p.at),
            ObjectKind::Plant(p) => (p.at, p.to) = (motion.of(p.at), p.to.map(|to| motion.of(to))),
            ObjectKind::Height(h) => h.at = motion.of(h.at),
            ObjectKind::Note(n) => n.at = motion.of(n.at),
        }
        next
    }

    /// The ground it takes up, where it has an outline.
    pub fn shape(&self) -> Option<&Shape> {
        match &self.what {
            ObjectKind::Area(Area { shape, .. })
            | ObjectKind::Dry(KeepDry { form: Form::Region(shape), .. }) => Some(shape),
            _ => None,
        }
    }
    /// The same, to be changed.
    pub fn shape_mut(&mut self) -> Option<&mut Shape> {
        match &mut self.what {
            ObjectKind::Area(Area { shape, .. })
            | ObjectKind::Dry(KeepDry { form: Form::Region(shape), .. }) => Some(shape),
            _ => None,
        }
    }
    /// Its line, where it is one.
    pub fn line(&self) -> Option<&Path> {
        match &self.what {
            ObjectKind::Dry(KeepDry { form: Form::Line(path), .. }) => Some(path),
            _ => None,
        }
    }

    /// Its corners with the bends between them, ring by ring: for a line its one row.
    pub fn rings_mut(&mut self, ring: usize) -> Option<(&mut Vec<super::Vertex>, bool)> {
        match &mut self.what {
            ObjectKind::Area(Area { shape, .. })
            | ObjectKind::Dry(KeepDry { form: Form::Region(shape), .. }) => {
                shape.ring_mut(ring).map(|Outline(v)| (v, true))
            }
            ObjectKind::Dry(KeepDry { form: Form::Line(path), .. }) => {
                (ring == 0).then_some((&mut path.0, false))
            }
            _ => None,
        }
    }

    /// Lowest and highest corner of the box round it.
    pub fn bounds(&self) -> Option<(Point, Point)> {
        match &self.what {
            ObjectKind::Area(Area { shape, .. })
            | ObjectKind::Dry(KeepDry { form: Form::Region(shape), .. }) => bounds(shape.outline.flat(0.1)),
            ObjectKind::Dry(KeepDry { form: Form::Line(path), .. }) => bounds(path.flat(0.1)),
            ObjectKind::Place(p) => Some((p.at, p.at)),
            ObjectKind::Plant(p) => bounds(std::iter::once(p.at).chain(p.to)).map(|(l, h)| {
                let r = p.canopy.m() / 2.0;
                (l - Point::new(r, r), h + Point::new(r, r))
            }),
            ObjectKind::Height(h) => Some((h.at, h.at)),
            ObjectKind::Note(n) => Some((n.at, n.at)),
        }
    }

    /// What it is, in a word or two.
    pub fn kind_word(&self) -> &'static str {
        match &self.what {
            ObjectKind::Area(a) => a.kind.name(Lang::En),
            ObjectKind::Dry(d) => d.kind.name(Lang::En),
            ObjectKind::Place(p) => p.kind.name(Lang::En),
            ObjectKind::Plant(p) if p.to.is_some() => term("object.plants", Lang::En),
            ObjectKind::Plant(_) => term("object.plant", Lang::En),
            ObjectKind::Height(_) => term("object.height", Lang::En),
            ObjectKind::Note(_) => term("object.note", Lang::En),
        }
    }
    /// Its name, or what it is where it has none.
    pub fn title(&self) -> &str {
        if self.name.is_empty() { self.kind_word() } else { &self.name }
    }
}
