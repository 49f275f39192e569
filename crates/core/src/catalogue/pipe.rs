use super::read::rows;
use crate::units::{Length, Pressure};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use std::fmt;
use std::str::FromStr;

/// Names a pipe: material and size, written `class-200 3/4in`.
#[derive(Debug, Clone, PartialEq, Eq, Hash)]
pub struct PipeId {
    /// Material, as in the catalogue.
    pub material: String,
    /// Nominal size, as in the catalogue.
    pub size: String,
}

impl fmt::Display for PipeId {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{} {}", self.material, self.size)
    }
}

/// Not two words, a material and a size.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("unknown pipe ‘{0}’. Use material and size, such as class-200 3/4in")]
pub struct PipeIdError(String);

impl FromStr for PipeId {
    type Err = PipeIdError;
    /// Material and size in either order; `1 1/2 in` may have its blanks.
    fn from_str(text: &str) -> Result<Self, PipeIdError> {
        let text = text.trim();
        let is_size = |w: &&str| w.starts_with(|c: char| c.is_ascii_digit()) || *w == "in" || *w == "mm";
        let (size, material): (Vec<&str>, Vec<&str>) = text.split_whitespace().partition(is_size);
        let size = size.join("-").replace("-in", "in").replace("-mm", "mm");
        match material[..] {
            [material] if !size.is_empty() && text.len() < 60 => {
                Ok(Self { material: material.to_owned(), size })
            }
            _ => Err(PipeIdError(text.chars().take(60).collect())),
        }
    }
}

impl Serialize for PipeId {
    fn serialize<S: serde::Serializer>(&self, s: S) -> Result<S::Ok, S::Error> {
        s.collect_str(self)
    }
}
impl<'de> Deserialize<'de> for PipeId {
    fn deserialize<D: serde::Deserializer<'de>>(d: D) -> Result<Self, D::Error> {
        String::deserialize(d)?.parse().map_err(serde::de::Error::custom)
    }
}
impl JsonSchema for PipeId {
    fn schema_name() -> std::borrow::Cow<'static, str> {
        "PipeId".into()
    }
    fn json_schema(_: &mut schemars::SchemaGenerator) -> schemars::Schema {
        schemars::json_schema!({
            "type": "string",
            "description": "material and size of a pipe",
            "examples": ["class-200 3/4in"]
        })
    }
}

/// What a pipe is taken for where nobody chose one.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum PipeDuty {
    /// Laterals of heads that are listed.
    Lateral,
    /// Laterals of heads that are drawn.
    DrawnLateral,
    /// Laterals of jobs in metric units.
    MetricLateral,
    /// Laterals of drip.
    DripLateral,
    /// The tube of dripline.
    Dripline,
    /// The tube of tape.
    Tape,
    /// Thin tube from a line to a plant.
    MicroTube,
}

/// A pipe of the catalogue.
#[derive(Debug, Clone, PartialEq)]
pub struct Pipe {
    /// Material, e.g. `class-200`.
    pub material: String,
    /// For people.
    pub label: String,
    /// Nominal size.
    pub size: String,
    /// Inside diameter.
    pub inside: Length,
    /// Hazen-Williams C.
    pub c: f64,
    /// Plastic has the lower velocity limit.
    pub plastic: bool,
    /// What it is taken for where nobody chose one.
    pub duty: Option<PipeDuty>,
    /// How it is sold.
    pub sold: Sold,
    /// Outside diameter as parts of assemblies name it, where it is tube.
    pub outside: Option<String>,
    /// The pressure that tube bears, where it is less than drip's fittings do; none: as the house's rules say.
    pub rated: Option<Pressure>,
}

/// How pipe is sold.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Sold {
    /// Straight, 20 ft.
    Stick,
    /// Rolled up, in feet; in jobs in metric units in metres.
    Coil,
    /// Rolled up, in metres everywhere.
    MetricCoil,
}

impl Pipe {
    /// Its name in files.
    pub fn id(&self) -> PipeId {
        PipeId { material: self.material.clone(), size: self.size.clone() }
    }
    /// For people: `PVC class 200 3/4 in`.
    pub fn title(&self) -> String {
        let size = self.size.replace("in", " in").replace("mm", " mm").replace('-', " ");
        format!("{} {size}", self.label)
    }
}

#[derive(Deserialize)]
struct PipeCsv {
    material: String,
    label: String,
    size: String,
    inside_in: f64,
    c: f64,
    plastic: u8,
    duty: Option<PipeDuty>,
    sold: Sold,
    outside: Option<String>,
    rated_psi: Option<f64>,
}

pub(super) fn pipes() -> Vec<Pipe> {
    rows::<PipeCsv>(include_str!("data/pipes.csv"))
        .into_iter()
        .map(|r| Pipe {
            material: r.material,
            label: r.label,
            size: r.size,
            inside: Length::from_in(r.inside_in),
            c: r.c,
            plastic: r.plastic == 1,
            duty: r.duty,
            sold: r.sold,
            outside: r.outside,
            rated: r.rated_psi.map(Pressure::from_psi),
        })
        .collect()
}
