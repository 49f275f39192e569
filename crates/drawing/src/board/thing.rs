//! One thing on the ground.

use super::layer_of;
use super::shape::{
    at_data, corner_data, dimensions, hatch, keep_size, label, line_path, ring_dimensions, rings_data, room,
    shape_path, size_words, word,
};
use crate::svg::escape;
use fenlo_core::site::{Area, DryKind, Form, KeepDry, ObjectKind, PlaceKind, SiteObject};
use fenlo_core::units::{Length, Surface, UnitSystem};
use std::fmt::Write;

/// One thing, with its id as `t-…`.
pub fn thing(t: &SiteObject, u: UnitSystem) -> String {
    let mut out = String::new();
    let (class, says, data) = match &t.what {
        ObjectKind::Area(a) => (
            format!("area {}{}", word(&a.kind), if a.later { " later" } else { "" }),
            size_words(&a.shape, u),
            rings_data(&a.shape),
        ),
        ObjectKind::Dry(KeepDry { kind, form: Form::Region(shape), .. }) => {
            (format!("dry {}", word(kind)), size_words(shape, u), rings_data(shape))
        }
        ObjectKind::Dry(KeepDry { kind, form: Form::Line(path), .. }) => (
            format!("dry line {}", word(kind)),
            Length::from_m(path.length()).show_tape(u),
            format!(r#"data-open="yes" data-rings="{}""#, corner_data(&[&path.0])),
        ),
        ObjectKind::Place(p) => (format!("place {}", word(&p.kind)), String::new(), at_data(p.at)),
        ObjectKind::Plant(p) => {
            let says = format!("{} × {} wide", p.count, p.canopy.show_tape(u));
            let to = p.to.map_or(String::new(), |to| format!(r#" data-to="{},{}""#, to.x, to.y));
            ("plant".to_owned(), says, at_data(p.at) + &to)
        }
        ObjectKind::Height(h) => ("height".to_owned(), h.height.show(u), at_data(h.at)),
        ObjectKind::Note(n) => ("note".to_owned(), n.text.clone(), at_data(n.at)),
    };
    let title = if says.is_empty() { t.title().to_owned() } else { format!("{}, {says}", t.title()) };
    let _ = write!(
        out,
        r#"<g id="t-{id}" class="thing {class}" data-id="{id}" data-layer="{}" {data}><title>{}</title>"#,
        layer_of(t),
        escape(&title),
        id = escape(&t.id)
    );
    match &t.what {
        ObjectKind::Area(Area { shape, later, .. }) => {
            let _ = write!(out, r#"<path d="{}"/>"#, shape_path(shape));
            let perimeter = Length::from_m(shape.perimeter()).show_tape(u);
            let at = shape.inner_point();
            label(
                &mut out,
                at,
                "",
                Some(room(shape, at)),
                &[
                    ("name", t.title().to_owned() + if *later { " (later)" } else { "" }),
                    ("size", Surface::from_m2(shape.area_m2()).show(u)),
                    ("size round", format!("perimeter {perimeter}")),
                ],
            );
            ring_dimensions(&mut out, shape, u);
        }
        ObjectKind::Dry(KeepDry { kind, form: Form::Region(shape), .. }) => {
            let _ = write!(out, r#"<path d="{}"/>"#, shape_path(shape));
            if *kind == DryKind::Building {
                hatch(&mut out, shape);
            }
            let at = shape.inner_point();
            label(
                &mut out,
                at,
                "",
                Some(room(shape, at)),
                &[("name", t.title().to_owned()), ("size", Surface::from_m2(shape.area_m2()).show(u))],
            );
            ring_dimensions(&mut out, shape, u);
        }
        ObjectKind::Dry(KeepDry { form: Form::Line(path), .. }) => {
            let _ = write!(out, r#"<path d="{}"/>"#, line_path(path));
            dimensions(&mut out, path.edges(), true, u);
        }
        ObjectKind::Place(p) => {
            let sign = match p.kind {
                PlaceKind::Water => "W",
                PlaceKind::Meter => "M",
                PlaceKind::Power => "P",
                PlaceKind::Controller => "C",
                PlaceKind::ValveBox => "V",
            };
            let _ = write!(
                out,
                r#"{}<rect x="-10" y="-10" width="20" height="20" rx="2"/>"#,
                keep_size(p.at, "")
            );
            let _ = write!(out, r#"<text class="sign" text-anchor="middle" y="4.5">{sign}</text>"#);
            let _ = write!(out, r#"<text class="tag" x="15" y="4.5">{}</text></g></g>"#, escape(t.title()));
        }
        ObjectKind::Plant(p) => {
            for at in p.spots() {
                let _ = write!(
                    out,
                    r#"<circle cx="{:.3}" cy="{:.3}" r="{:.3}"/><circle class="stem" cx="{0:.3}" cy="{1:.3}" r="0.05"/>"#,
                    at.x,
                    -at.y,
                    p.canopy.m() / 2.0
                );
            }
            if !t.name.is_empty() {
                label(&mut out, p.at, "tag", None, &[("size", t.name.clone())]);
            }
        }
        ObjectKind::Height(h) => {
            let _ = write!(
                out,
                concat!(
                    r#"<g transform="translate({:.3} {:.3})"><g class="px"><path d="M-5 -5L5 5M-5 5L5 -5"/>"#,
                    r#"<text x="8" y="4">{}</text></g></g>"#
                ),
                h.at.x,
                -h.at.y,
                escape(&h.height.show(u))
            );
        }
        ObjectKind::Note(n) => {
            let _ = write!(
                out,
                r#"<g transform="translate({:.3} {:.3})"><g class="px"><text y="4">{}</text></g></g>"#,
                n.at.x,
                -n.at.y,
                escape(&n.text)
            );
        }
    }
    out.push_str("</g>");
    out
}
