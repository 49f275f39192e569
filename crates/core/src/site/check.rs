use super::objects::{Form, ObjectKind, Site};
use super::{MOST_CORNERS_IN_ALL, MOST_OBJECTS, Point};
use crate::fault::Fault;

/// Faults of a site, located as in the job file.
pub(crate) fn check(site: &Site, faults: &mut Vec<Fault>) {
    let mut fault = |path: String, message: String| faults.push(Fault { path, message });
    if site.objects.len() > MOST_OBJECTS {
        fault(
            "site.things".into(),
            format!("has {} entries; at most {MOST_OBJECTS} in one job", site.objects.len()),
        );
        return;
    }
    let corners: usize = site
        .objects
        .iter()
        .map(|t| {
            t.shape().map_or(0, |s| s.rings().map(|r| r.0.len()).sum()) + t.line().map_or(0, |l| l.0.len())
        })
        .sum();
    if corners > MOST_CORNERS_IN_ALL {
        fault(
            "site.things".into(),
            format!("have {corners} corners; at most {MOST_CORNERS_IN_ALL} in one job"),
        );
        return;
    }
    if !(0.0..360.0).contains(&site.north) {
        fault("site.north".into(), "enter 0 to 360 degrees".into());
    }
    if let Some(u) = &site.underlay {
        if !u.at.is_sound() {
            fault("site.underlay.at".into(), "is outside the drawing area".into());
        }
        if !(1..=20_000).contains(&u.width) || !(1..=20_000).contains(&u.height) {
            fault("site.underlay.width".into(), "a picture has 1 to 20000 pixels each way".into());
        }
        if !(u.pixel.m() > 0.0 && u.pixel.m() <= 100.0) {
            fault("site.underlay.pixel".into(), "must be more than zero and at most 100 m".into());
        }
        if !(0.0..=1.0).contains(&u.strength) || !u.degrees.is_finite() {
            fault("site.underlay.strength".into(), "must be from 0 to 1".into());
        }
        if u.picture.is_empty()
            || u.picture.len() > 64
            || !u.picture.chars().all(|c| c.is_ascii_alphanumeric())
        {
            fault("site.underlay.picture".into(), "is not the name of a picture".into());
        }
    }
    for (i, thing) in site.objects.iter().enumerate() {
        let at = format!("site.things[{i}]");
        let who = thing.title().to_owned();
        let mut say = |part: &str, message: String| fault(format!("{at}.{part}"), message);
        if thing.name.chars().count() > 100 {
            say("name", "must be at most 100 characters".into());
        }
        let point = |p: Point| !p.is_sound();
        match &thing.what {
            ObjectKind::Area(a) => {
                if let Err(e) = a.shape.check() {
                    say("what.shape", format!("{who}: {e}"));
                }
                if a.plants.chars().count() > 200 {
                    say("what.plants", "must be at most 200 characters".into());
                }
                if !(0.0..=100.0).contains(&a.slope_percent) {
                    say("what.slope_percent", "must be from 0 to 100 percent".into());
                }
                if a.slope_toward.is_some_and(|d| !(0.0..=360.0).contains(&d)) {
                    say("what.slope_toward", "enter 0 to 360 degrees".into());
                }
            }
            ObjectKind::Dry(d) => {
                match &d.form {
                    Form::Region(shape) => {
                        if let Err(e) = shape.check() {
                            say("what.form", format!("{who}: {e}"));
                        }
                    }
                    Form::Line(path) => {
                        if let Err(e) = path.check() {
                            say("what.form", format!("{who}: {e}"));
                        }
                    }
                }
                if d.height.is_some_and(|h| !(0.0..=150.0).contains(&h.m())) {
                    say("what.height", "must be from 0 to 500 ft (152 m)".into());
                }
            }
            ObjectKind::Place(p) if point(p.at) => say("what.at", "is outside the drawing area".into()),
            ObjectKind::Place(_) => {}
            ObjectKind::Plant(p) => {
                if point(p.at) || p.to.is_some_and(point) {
                    say("what.at", "is outside the drawing area".into());
                }
                if !(p.canopy.m() > 0.0 && p.canopy.m() <= 60.0) {
                    say("what.canopy", "must be more than zero and at most 200 ft (60 m)".into());
                }
                if !(1..=500).contains(&p.count) || p.to.is_some() != (p.count > 1) {
                    say("what.count", "a row has 2 to 500 plants, a single plant is 1".into());
                }
            }
            ObjectKind::Height(h) => {
                if point(h.at) {
                    say("what.at", "is outside the drawing area".into());
                }
                if !(-500.0..=9_000.0).contains(&h.height.m()) {
                    say("what.height", "is not a possible elevation".into());
                }
            }
            ObjectKind::Note(n) => {
                if point(n.at) {
                    say("what.at", "is outside the drawing area".into());
                }
                if n.text.trim().is_empty() || n.text.chars().count() > 500 {
                    say("what.text", "must be 1 to 500 characters".into());
                }
            }
        }
    }
}
