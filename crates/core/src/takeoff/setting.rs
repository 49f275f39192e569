//! The setting-out sheet: where every head stands, by running dimensions from one corner along an edge.

use crate::job::Job;
use crate::site::{Area, Point};
use crate::units::Length;

/// A head nearer to an edge than this stands on it, m.
const ON_EDGE: f64 = 0.45;

/// A head to be set out.
#[derive(Debug, Clone, PartialEq)]
pub struct SetHead {
    /// Its number on the sheet, from 1 through the area.
    pub number: usize,
    /// Its id.
    pub head: String,
    /// The number of its valve, which is the flag; none: on no valve.
    pub flag: Option<usize>,
    /// Corner that is measured from, from 0 round the outline.
    pub corner: usize,
    /// Along the edge from that corner.
    pub along: Length,
    /// Square off the edge, inwards; zero: on it.
    pub off: Length,
}

/// One area.
#[derive(Debug, Clone, PartialEq)]
pub struct SettingOut {
    /// The area's id.
    pub area: String,
    /// Its name.
    pub name: String,
    /// Its corners, for the drawing.
    pub corners: Vec<Point>,
    /// Heads, edge by edge, each in the order of the tape.
    pub heads: Vec<SetHead>,
    /// The length of the spacing stick: what most neighbours are apart.
    pub stick: Option<Length>,
}

/// The sheet of every area with drawn heads.
pub fn setting_out(job: &Job) -> Vec<SettingOut> {
    let mut sheets = Vec::new();
    for object in &job.site.objects {
        let Some(area) = job.site.area(&object.id) else {
            continue;
        };
        let here: Vec<(&crate::plan::HeadGroup, &crate::plan::DrawnHead)> = job
            .groups
            .iter()
            .filter(|g| g.area.as_deref() == Some(&object.id) && g.drip.is_none())
            .flat_map(|g| g.drawn.iter().map(move |h| (g, h)))
            .collect();
        if here.is_empty() {
            continue;
        }
        let corners = corners_of(area);
        let mut heads: Vec<SetHead> = here
            .iter()
            .map(|(_, head)| {
                let (corner, along, off) = measured(&corners, head.at);
                SetHead {
                    number: 0,
                    head: head.id.clone(),
                    flag: head.valve.as_deref().map(|v| job.valve_number(v)).filter(|n| *n > 0),
                    corner,
                    along: Length::from_m(along),
                    off: Length::from_m(if off < 0.02 { 0.0 } else { off }),
                }
            })
            .collect();
        heads.sort_by(|a, b| {
            let inside = |h: &SetHead| h.off.m() > ON_EDGE;
            (inside(a), a.corner).cmp(&(inside(b), b.corner)).then(a.along.m().total_cmp(&b.along.m()))
        });
        for (i, head) in heads.iter_mut().enumerate() {
            head.number = i + 1;
        }
        let points: Vec<Point> = here.iter().map(|h| h.1.at).collect();
        sheets.push(SettingOut {
            area: object.id.clone(),
            name: object.name.clone(),
            corners,
            heads,
            stick: usual_spacing(&points),
        });
    }
    sheets
}

fn corners_of(area: &Area) -> Vec<Point> {
    area.shape.outline.edges().map(|e| e.from).collect()
}

/// The edge that a head is measured along: of those on which it falls square, the nearest.
fn measured(corners: &[Point], at: Point) -> (usize, f64, f64) {
    let n = corners.len();
    let edges = (0..n).map(|i| (i, corners[i], corners[(i + 1) % n]));
    let along = |(i, a, b): (usize, Point, Point)| -> Option<(usize, f64, f64)> {
        let way = (b - a).unit()?;
        let along = (at - a).dot(way);
        let long = a.distance(b);
        let off = (at - a).dot(way.left()).abs();
        (-0.05..=long + 0.05).contains(&along).then_some((i, along.clamp(0.0, long), off))
    };
    let square = edges.clone().filter_map(along);
    square
        .min_by(|a, b| a.2.total_cmp(&b.2))
        .or_else(|| {
            // Beyond every edge: along the nearest corner's edge, as far as it goes.
            let far = |e: &(usize, Point, Point)| e.1.distance(at);
            let (i, a, _) = edges.min_by(|a, b| far(a).total_cmp(&far(b)))?;
            Some((i, 0.0, a.distance(at)))
        })
        .unwrap_or((0, 0.0, 0.0))
}

/// What most heads stand from their nearest neighbour, to the half foot.
fn usual_spacing(points: &[Point]) -> Option<Length> {
    let nearest = |i: usize| {
        let others = points.iter().enumerate().filter(|(j, _)| *j != i);
        others.map(|(_, p)| p.distance(points[i])).fold(f64::MAX, f64::min)
    };
    let mut all: Vec<f64> = (0..points.len()).map(nearest).filter(|d| *d < 1e6).collect();
    all.sort_by(f64::total_cmp);
    all.get(all.len() / 2).map(|d| Length::from_m(*d))
}
