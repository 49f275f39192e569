//! What is picked, as it is typed.

use crate::fields::Fields;
use fenlo_core::site::{DryKind, Form as GroundForm, ObjectKind, Point, SiteObject};

pub const FIELDS: [&str; 19] = [
    "name",
    "kind",
    "plants",
    "water_use",
    "soil",
    "exposure",
    "wind",
    "slope",
    "slope_percent",
    "toward",
    "slope_toward",
    "height",
    "supply",
    "canopy",
    "count",
    "x",
    "y",
    "text",
    "to_x",
];

/// The thing as the form has it now; shapes are the board's.
pub fn thing(f: &mut Fields, was: &SiteObject) -> SiteObject {
    let mut now = SiteObject { name: f.text("name"), ..was.clone() };
    let at = |f: &mut Fields| Point::new(f.length("x").m(), f.length("y").m());
    match &mut now.what {
        ObjectKind::Area(a) => {
            a.kind = f.choice("kind");
            a.plants = f.text("plants");
            a.water_use = f.choice("water_use");
            a.soil = f.choice("soil");
            a.exposure = f.choice("exposure");
            a.wind = f.choice("wind");
            a.slope_percent = f.percent("slope");
            a.slope_toward = f.degrees_if_any("toward");
            a.later = f.ticked("later");
        }
        ObjectKind::Dry(d) => {
            let kind = f.choice("kind");
            let is_line = matches!(kind, DryKind::Wall | DryKind::Window);
            if matches!(d.form, GroundForm::Region(_)) && is_line {
                f.fault("kind", "walls and windows are drawn as lines");
            }
            d.kind = kind;
            d.height = f.length_if_any("height");
        }
        ObjectKind::Place(p) => {
            p.kind = f.choice("kind");
            p.supply = Some(f.text("supply")).filter(|s| !s.is_empty());
            p.at = at(f);
        }
        ObjectKind::Plant(p) => {
            p.canopy = f.length("canopy");
            p.count = f.count("count");
            p.at = at(f);
            p.to = if f.get("to_x").is_empty() {
                None
            } else {
                Some(Point::new(f.length("to_x").m(), f.length("to_y").m()))
            };
        }
        ObjectKind::Height(h) => {
            h.height = f.length("height");
            h.at = at(f);
        }
        ObjectKind::Note(n) => {
            n.text = f.text("text");
            n.at = at(f);
        }
    }
    now
}
