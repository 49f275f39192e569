use super::pipe_layer;
use dxf::entities::{Arc, Circle, Entity, EntityType, LwPolyline, ModelPoint, Text};
use dxf::enums::{AcadVersion, Units};
use dxf::{LwPolylineVertex, Point as DxfPoint};
use fenlo_core::drip::{Part, lay};
use fenlo_core::earthwork::{Ground, earthwork};
use fenlo_core::job::Job;
use fenlo_core::site::{Area, Form, KeepDry, ObjectKind, Point, Shape, SiteObject, Vertex};

/// The board as DXF in metres. Layers say what things are (`area-lawn`, `dry-building`, `heads`),
/// so that the same file read again knows them.
pub fn write_dxf(job: &Job) -> Vec<u8> {
    let mut file = dxf::Drawing::new();
    file.header.version = AcadVersion::R2000;
    file.header.default_drawing_units = Units::Meters;
    for thing in &job.site.objects {
        add(&mut file, job, thing);
    }
    let catalogue = job.catalogue();
    for (group, head) in
        job.groups.iter().filter(|g| g.drip.is_none()).flat_map(|g| g.drawn.iter().map(move |h| (g, h)))
    {
        let full = catalogue.nozzle(&group.nozzle).and_then(|n| n.radius).unwrap_or(group.spacing);
        put(
            &mut file,
            "heads",
            EntityType::Circle(Circle { center: point(head.at), radius: 0.05, ..Circle::default() }),
        );
        let radius = head.radius.unwrap_or(full).m();
        let throw = if head.arc >= 360 {
            EntityType::Circle(Circle { center: point(head.at), radius, ..Circle::default() })
        } else {
            let half = f64::from(head.arc) / 2.0;
            let (start_angle, end_angle) =
                ((head.facing - half).rem_euclid(360.0), (head.facing + half).rem_euclid(360.0));
            EntityType::Arc(Arc { center: point(head.at), radius, start_angle, end_angle, ..Arc::default() })
        };
        put(&mut file, "throw", throw);
    }
    drip(&mut file, job);
    pipes(&mut file, job);
    // Whoever opens it sees all of it at once.
    let boxes = job.site.objects.iter().filter_map(SiteObject::bounds);
    if let Some((low, high)) = boxes.reduce(|(a, b), (c, d)| {
        let low = Point::new(a.x.min(c.x), a.y.min(c.y));
        (low, Point::new(b.x.max(d.x), b.y.max(d.y)))
    }) {
        file.header.minimum_drawing_extents = point(low);
        file.header.maximum_drawing_extents = point(high);
    }
    let mut out = Vec::new();
    // Writing to memory fails for no file that we build.
    if file.save(&mut out).is_err() {
        out.clear();
    }
    out
}

/// Drip as it is laid: rows, headers and lines, emitters and inlets on layers of their own. They follow from
/// the job and are not read again.
fn drip(file: &mut dxf::Drawing, job: &Job) {
    let piece = |a: Point, b: Point| {
        let vertices = [a, b].map(|at| Vertex { at, bulge: 0.0 });
        line(&vertices, false)
    };
    let mark = |at: Point| {
        let location = point(at);
        EntityType::ModelPoint(ModelPoint { location, ..ModelPoint::default() })
    };
    for group in job.groups.iter().filter(|g| g.drip.is_some()) {
        for laid in lay(job, group).unwrap_or_default() {
            for row in &laid.rows {
                put(file, "drip-rows", piece(row.from, row.to));
            }
            for tube in laid.tubes.iter().filter(|t| !matches!(t.part, Part::Row(_))) {
                let (a, b) = (laid.joints[tube.from].at, laid.joints[tube.to].at);
                put(file, "drip-headers", piece(a, b));
            }
            for emitter in &laid.emitters {
                put(file, "drip-emitters", mark(emitter.at));
            }
            put(file, "drip-inlets", mark(laid.joints[0].at));
        }
    }
}

/// Pipes on a layer for each main and lateral (`pipe-main-s1`, `pipe-lateral-v2`), so that they are known
/// when they come back; trenches and sleeves on layers of their own; joints as points.
fn pipes(file: &mut dxf::Drawing, job: &Job) {
    let open = |way: &[Point]| {
        let vertices: Vec<Vertex> = way.iter().map(|p| Vertex { at: *p, bulge: 0.0 }).collect();
        line(&vertices, false)
    };
    if job.piping.is_blank() {
        return;
    }
    for leg in &job.piping.legs {
        let Some(way) = job.way_of(leg) else { continue };
        put(file, &pipe_layer(&leg.of), open(&way));
        let middle = way[way.len() / 2 - 1].middle(way[way.len() / 2]);
        text(file, "pipe-sizes", middle, &leg.pipe.to_string());
    }
    for joint in &job.piping.joints {
        let layer = format!("joint-{}", word(&joint.kind));
        let location = point(joint.at);
        let mark = ModelPoint { location, ..ModelPoint::default() };
        put(file, &layer, EntityType::ModelPoint(mark));
    }
    let work = earthwork(job, &Ground::covers(job));
    for (a, b) in work.trenches.iter().flat_map(|t| &t.stretches) {
        put(file, "trenches", open(&[*a, *b]));
    }
    for c in &work.crossings {
        put(file, if c.sleeved { "sleeves" } else { "crossings" }, open(&[c.from, c.to]));
    }
}

fn point(p: Point) -> DxfPoint {
    DxfPoint::new(p.x, p.y, 0.0)
}

fn put(file: &mut dxf::Drawing, layer: &str, what: EntityType) {
    let mut entity = Entity::new(what);
    entity.common.layer = layer.to_owned();
    file.add_entity(entity);
}

fn line(vertices: &[Vertex], closed: bool) -> EntityType {
    let vertices = vertices
        .iter()
        .map(|v| LwPolylineVertex { x: v.at.x, y: v.at.y, bulge: v.bulge, ..LwPolylineVertex::default() })
        .collect();
    EntityType::LwPolyline(LwPolyline { flags: i32::from(closed), vertices, ..LwPolyline::default() })
}

fn text(file: &mut dxf::Drawing, layer: &str, at: Point, value: &str) {
    let value = value.replace(['\n', '\r'], " ");
    put(
        file,
        layer,
        EntityType::Text(Text { location: point(at), text_height: 0.4, value, ..Text::default() }),
    );
}

fn add(file: &mut dxf::Drawing, job: &Job, thing: &SiteObject) {
    let name_at = |shape: &Shape| job.site.name_point(thing).unwrap_or_else(|| shape.inner_point());
    match &thing.what {
        ObjectKind::Area(Area { kind, shape, .. }) => {
            let layer = format!("area-{}", word(kind));
            shape.rings().for_each(|r| put(file, &layer, line(&r.0, true)));
            text(file, "names", name_at(shape), thing.title());
        }
        ObjectKind::Dry(KeepDry { kind, form: Form::Region(shape), .. }) => {
            let layer = format!("dry-{}", word(kind));
            shape.rings().for_each(|r| put(file, &layer, line(&r.0, true)));
            text(file, "names", name_at(shape), thing.title());
        }
        ObjectKind::Dry(KeepDry { kind, form: Form::Line(path), .. }) => {
            put(file, &format!("dry-{}", word(kind)), line(&path.0, false))
        }
        ObjectKind::Place(p) => {
            put(
                file,
                &format!("place-{}", word(&p.kind)),
                EntityType::ModelPoint(ModelPoint { location: point(p.at), ..ModelPoint::default() }),
            );
            text(file, "names", p.at, thing.title());
        }
        ObjectKind::Plant(p) => {
            for at in p.spots() {
                put(
                    file,
                    "plants",
                    EntityType::Circle(Circle {
                        center: point(at),
                        radius: p.canopy.m() / 2.0,
                        ..Circle::default()
                    }),
                );
            }
        }
        ObjectKind::Height(h) => {
            let location = DxfPoint::new(h.at.x, h.at.y, h.height.m());
            put(file, "heights", EntityType::ModelPoint(ModelPoint { location, ..ModelPoint::default() }));
        }
        ObjectKind::Note(n) => text(file, "notes", n.at, &n.text),
    }
}

/// The word of a kind as in job files.
fn word(kind: &impl serde::Serialize) -> String {
    serde_json::to_value(kind).ok().and_then(|v| v.as_str().map(str::to_owned)).unwrap_or_default()
}
