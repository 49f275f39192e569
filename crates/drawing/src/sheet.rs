//! Plan sheets for paper: the ground at a true scale, in attributes that every renderer reads. What tells
//! zones apart is the number beside their heads first and the colour second, so that black and white print
//! works.

use crate::board::{ring_path, shape_path};
use crate::colour;
use crate::svg::escape;
use fenlo_core::drip::lay;
use fenlo_core::job::Job;
use fenlo_core::plan::{JointKind, LegOf};
use fenlo_core::site::{DryKind, Form, KeepDry, ObjectKind, PlaceKind, Point};
use fenlo_core::zoning::later_areas;
use std::collections::BTreeSet;
use std::fmt::Write;

/// Ground on a sheet: left, bottom, right, top, m.
pub type Window = (f64, f64, f64, f64);

/// What the legend of a sheet explains.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Legend {
    /// A main.
    Main,
    /// A lateral.
    Lateral,
    /// A sleeve under paving.
    Sleeve,
    /// A head with its arc.
    Head,
    /// Tube of drip.
    Drip,
    /// A valve box.
    Box,
    /// The controller.
    Controller,
    /// Meter or other water.
    Water,
    /// A shut-off, drain or flush point.
    Joint,
    /// A plant.
    Plant,
    /// Ground that is not dug.
    NoDig,
}

/// Letters by which shutoffs, drains and flush points are told apart, in the language of the reader.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct JointLetters {
    /// A shutoff by hand.
    pub isolation: char,
    /// A drain at a low end.
    pub drain: char,
    /// An end that is opened for flushing.
    pub flush: char,
}

impl JointLetters {
    /// Shutoff, drain, flush.
    pub const ENGLISH: Self = Self { isolation: 'S', drain: 'D', flush: 'F' };
    /// Llave de paso, dren, lavado.
    pub const SPANISH: Self = Self { isolation: 'P', drain: 'D', flush: 'L' };
}

/// Colours of zones, in the order of their numbers.
const ZONES: [&str; 8] = [
    colour::ZONE_1,
    colour::ZONE_2,
    colour::ZONE_3,
    colour::ZONE_4,
    colour::ZONE_5,
    colour::ZONE_6,
    colour::ZONE_7,
    colour::ZONE_8,
];

fn zone_colour(number: usize) -> &'static str {
    match number {
        0 => colour::INK,
        n => ZONES[(n - 1) % ZONES.len()],
    }
}

/// A drawn sheet.
pub struct PlanSheet {
    /// The drawing: its units are millimetres of paper.
    pub svg: String,
    /// What its legend explains.
    pub legend: BTreeSet<Legend>,
}

/// The plan inside a window of the ground at a scale (100 for 1:100). Lines and signs keep their size on
/// paper whatever the scale.
pub fn plan_sheet(job: &Job, window: Window, scale: f64, letters: JointLetters) -> PlanSheet {
    let (l, b, r, t) = window;
    let mm = 1000.0 / scale;
    let (w, h) = ((r - l) * mm, (t - b) * mm);
    let mut sheet = Drawing {
        job,
        out: format!(
            r#"<svg xmlns="http://www.w3.org/2000/svg" width="{w:.3}mm"
              height="{h:.3}mm" viewBox="0 0 {w:.3} {h:.3}" font-family="Atkinson Hyperlegible Next">
              <clipPath id="w"><rect width="{w:.3}" height="{h:.3}"/></clipPath><g clip-path="url(#w)">"#
        ),
        // Metres to millimetres of paper: lines are drawn in metres, as wide as so many millimetres.
        mm,
        at: (l, t),
        letters,
        legend: BTreeSet::new(),
    };
    let _ = write!(sheet.out, r#"<g transform="scale({mm:.6}) translate({:.4} {:.4})">"#, -l, t);
    sheet.ground();
    sheet.plants();
    sheet.drip();
    sheet.pipes();
    sheet.throws();
    sheet.out.push_str("</g>");
    sheet.heads();
    sheet.joints();
    sheet.places();
    sheet.names();
    sheet.out.push_str("</g></svg>");
    PlanSheet { svg: sheet.out, legend: sheet.legend }
}

/// The whole plan as a file of its own at 1:100, with its name, in attributes that every program reads.
pub fn plan_file(job: &Job) -> String {
    let (l, b, r, t) = crate::board::frame(job);
    let svg = plan_sheet(job, (l, b, r, t), 100.0, JointLetters::ENGLISH).svg;
    let title = format!("<title>{} · 1:100</title>", escape(&job.name));
    // Its letters are not at hand everywhere.
    let letters = r#"font-family="Atkinson Hyperlegible Next, DejaVu Sans, Arial, sans-serif""#;
    let svg = svg.replacen(r#"font-family="Atkinson Hyperlegible Next""#, letters, 1);
    svg.replacen('>', &format!(">{title}"), 1)
}

struct Drawing<'a> {
    job: &'a Job,
    out: String,
    mm: f64,
    at: (f64, f64),
    letters: JointLetters,
    legend: BTreeSet<Legend>,
}

impl Drawing<'_> {
    /// A width on paper, in metres of ground.
    fn thick(&self, paper_mm: f64) -> f64 {
        paper_mm / self.mm
    }
    /// A point of the ground on paper.
    fn on(&self, p: Point) -> (f64, f64) {
        ((p.x - self.at.0) * self.mm, (self.at.1 - p.y) * self.mm)
    }

    fn ground(&mut self) {
        for object in &self.job.site.objects {
            let (d, fill, line, wide) = match &object.what {
                ObjectKind::Area(area) => (shape_path(&area.shape), "#f2f4ea", colour::SOFT, 0.15),
                ObjectKind::Dry(KeepDry { kind, form, .. }) => {
                    let fill = match kind {
                        DryKind::Building => "#dedbd2",
                        DryKind::Paving | DryKind::Path | DryKind::CarPark => "#ecebe7",
                        DryKind::NoDig => {
                            self.legend.insert(Legend::NoDig);
                            "#f6e9e4"
                        }
                        _ => "none",
                    };
                    let wide = if *kind == DryKind::Building { 0.4 } else { 0.2 };
                    match form {
                        Form::Region(shape) => (shape_path(shape), fill, colour::INK, wide),
                        Form::Line(path) => {
                            let mut d = String::new();
                            ring_path(&mut d, path.edges(), false);
                            (d, "none", colour::INK, 0.5)
                        }
                    }
                }
                _ => continue,
            };
            let wide = self.thick(wide);
            let _ = write!(
                self.out,
                r#"<path d="{d}" fill="{fill}" fill-rule="evenodd" stroke="{line}" stroke-width="{wide:.4}"/>"#
            );
        }
    }

    fn plants(&mut self) {
        for object in &self.job.site.objects {
            let ObjectKind::Plant(plant) = &object.what else {
                continue;
            };
            self.legend.insert(Legend::Plant);
            let wide = self.thick(0.15);
            for at in plant.spots() {
                let _ = write!(
                    self.out,
                    r#"<circle cx="{:.3}" cy="{:.3}" r="{:.3}" fill="none" stroke="{}"
                      stroke-width="{wide:.4}" stroke-dasharray="{:.3} {:.3}"/>"#,
                    at.x,
                    -at.y,
                    plant.canopy.m() / 2.0,
                    colour::SOFT,
                    wide * 6.0,
                    wide * 4.0
                );
            }
        }
    }

    fn drip(&mut self) {
        for group in self.job.groups.iter().filter(|g| g.drip.is_some()) {
            let Ok(parts) = lay(self.job, group) else { continue };
            for (laid, inlet) in parts.iter().zip(&group.drawn) {
                let number = inlet.valve.as_deref().map_or(0, |v| self.job.valve_number(v));
                let wide = self.thick(0.18);
                self.legend.insert(Legend::Drip);
                let mut d = String::new();
                for tube in &laid.tubes {
                    let (a, z) = (laid.joints[tube.from].at, laid.joints[tube.to].at);
                    let _ = write!(d, "M{:.3} {:.3}L{:.3} {:.3}", a.x, -a.y, z.x, -z.y);
                }
                let _ = write!(
                    self.out,
                    r#"<path d="{d}" fill="none" stroke="{}" stroke-width="{wide:.4}"/>"#,
                    zone_colour(number)
                );
            }
        }
    }

    fn pipes(&mut self) {
        for leg in &self.job.piping.legs {
            let Some(way) = self.job.way_of(leg) else { continue };
            let inside = self.job.catalogue().pipe(&leg.pipe).map_or(1.0, |p| p.inside.inches());
            let mut d = String::new();
            for (i, p) in way.iter().enumerate() {
                let _ = write!(d, "{}{:.3} {:.3}", if i == 0 { "M" } else { "L" }, p.x, -p.y);
            }
            let path = |out: &mut String, line: &str, wide: f64, dash: &str| {
                let _ = write!(
                    out,
                    r#"<path d="{d}" fill="none" stroke="{line}" stroke-width="{wide:.4}" stroke-linejoin="round"{dash}/>"#
                );
            };
            match &leg.of {
                LegOf::Main(_) => {
                    self.legend.insert(Legend::Main);
                    let wide = self.thick(0.7 + 0.3 * inside);
                    path(&mut self.out, colour::INK, wide, "");
                    path(&mut self.out, colour::WHITE, wide * 0.45, "");
                }
                LegOf::Lateral(valve) => {
                    self.legend.insert(Legend::Lateral);
                    let line = zone_colour(self.job.valve_number(valve));
                    let wide = self.thick(0.25 + 0.2 * inside);
                    path(&mut self.out, line, wide, "");
                }
            }
            if leg.sleeve.is_some() {
                self.legend.insert(Legend::Sleeve);
            }
        }
        for stub in later_areas(self.job, None).into_iter().filter_map(|l| l.stub) {
            let across =
                (stub.to - stub.from).unit().map_or(Point::default(), |u| u.left() * self.thick(1.2));
            let (a, z) = (stub.to + across, stub.to - across);
            let (wide, dash) = (self.thick(0.5), self.thick(1.0));
            let _ = write!(
                self.out,
                r#"<path d="M{:.3} {:.3}L{:.3} {:.3}M{:.3} {:.3}L{:.3} {:.3}" stroke="{}"
                  stroke-width="{wide:.4}" stroke-dasharray="{dash:.4}"/>"#,
                stub.from.x,
                -stub.from.y,
                stub.to.x,
                -stub.to.y,
                a.x,
                -a.y,
                z.x,
                -z.y,
                colour::INK
            );
        }
        let ground = fenlo_core::earthwork::Ground::of(self.job);
        let work = fenlo_core::earthwork::earthwork(self.job, &ground);
        for crossing in work.crossings.iter().filter(|c| c.sleeved) {
            let wide = self.thick(0.25);
            let off = (crossing.to - crossing.from).unit().map(|u| u.left() * self.thick(1.1));
            let Some(off) = off else { continue };
            for side in [1.0, -1.0] {
                let (a, z) = (crossing.from + off * side, crossing.to + off * side);
                let _ = write!(
                    self.out,
                    r#"<path d="M{:.3} {:.3}L{:.3} {:.3}" stroke="{}" stroke-width="{wide:.4}"/>"#,
                    a.x,
                    -a.y,
                    z.x,
                    -z.y,
                    colour::INK
                );
            }
        }
    }

    fn throws(&mut self) {
        for group in self.job.groups.iter().filter(|g| g.drip.is_none()) {
            let nozzle = self.job.catalogue().nozzle(&group.nozzle);
            for head in &group.drawn {
                let Some(throw) = head.radius.or(nozzle.and_then(|n| n.radius)) else {
                    continue;
                };
                let number = head.valve.as_deref().map_or(0, |v| self.job.valve_number(v));
                let r = throw.m();
                let wide = self.thick(0.1);
                let half = f64::from(head.arc) / 2.0;
                let (a, z) = (head.at.toward(head.facing - half, r), head.at.toward(head.facing + half, r));
                let d = if head.arc >= 360 {
                    format!(
                        "M{:.3} {:.3}A{r:.3} {r:.3} 0 1 0 {:.3} {:.3}A{r:.3} {r:.3} 0 1 0 {:.3} {:.3}",
                        head.at.x - r,
                        -head.at.y,
                        head.at.x + r,
                        -head.at.y,
                        head.at.x - r,
                        -head.at.y
                    )
                } else {
                    let large = u8::from(head.arc > 180);
                    format!("M{:.3} {:.3}A{r:.3} {r:.3} 0 {large} 0 {:.3} {:.3}", a.x, -a.y, z.x, -z.y)
                };
                let _ = write!(
                    self.out,
                    r#"<path d="{d}" fill="none" stroke="{}" stroke-width="{wide:.4}"/>"#,
                    zone_colour(number)
                );
            }
        }
    }

    /// Rings with a tick in the middle of the arc; the number of the valve beside the first of a zone's
    /// heads in each area.
    fn heads(&mut self) {
        for group in &self.job.groups {
            let mut told: BTreeSet<usize> = BTreeSet::new();
            for head in &group.drawn {
                let number = head.valve.as_deref().map_or(0, |v| self.job.valve_number(v));
                let line = zone_colour(number);
                let (x, y) = self.on(head.at);
                if group.drip.is_some() {
                    let _ = write!(
                        self.out,
                        r#"<rect x="{:.2}" y="{:.2}" width="1.6" height="1.6" fill="{}" stroke="{line}" stroke-width="0.3"/>"#,
                        x - 0.8,
                        y - 0.8,
                        colour::WHITE
                    );
                } else {
                    self.legend.insert(Legend::Head);
                    let (dx, dy) = (head.facing.to_radians().cos(), -head.facing.to_radians().sin());
                    let _ = write!(
                        self.out,
                        r#"<circle cx="{x:.2}" cy="{y:.2}" r="0.9" fill="{}" stroke="{line}"
                          stroke-width="0.35"/><path d="M{x:.2} {y:.2}L{:.2} {:.2}" stroke="{line}"
                          stroke-width="0.35"/>"#,
                        colour::WHITE,
                        x + dx * 2.0,
                        y + dy * 2.0
                    );
                }
                if number > 0 && told.insert(number) {
                    self.badge(x + 2.6, y - 2.6, number, line);
                }
            }
        }
    }

    fn badge(&mut self, x: f64, y: f64, number: usize, line: &str) {
        let wide = if number > 9 { 4.2 } else { 3.2 };
        let _ = write!(
            self.out,
            r#"<rect x="{:.2}" y="{:.2}" width="{wide}" height="3.2" rx="0.5" fill="{line}"/>
              <text x="{x:.2}" y="{:.2}" font-size="2.5" font-weight="700" text-anchor="middle"
              fill="{}">{number}</text>"#,
            x - wide / 2.0,
            y - 1.6,
            y + 0.9,
            colour::WHITE
        );
    }

    fn joints(&mut self) {
        for joint in &self.job.piping.joints {
            let letter = match joint.kind {
                JointKind::Tee => continue,
                JointKind::Isolation => self.letters.isolation,
                JointKind::Drain => self.letters.drain,
                JointKind::Flush => self.letters.flush,
                JointKind::Stub => 'x',
            };
            self.legend.insert(Legend::Joint);
            let (x, y) = self.on(joint.at);
            let _ = write!(
                self.out,
                r#"<circle cx="{x:.2}" cy="{y:.2}" r="1.5" fill="{}" stroke="{}" stroke-width="0.3"/>
                  <text x="{x:.2}" y="{:.2}" font-size="2" text-anchor="middle" fill="{}">{letter}</text>"#,
                colour::WHITE,
                colour::INK,
                y + 0.7,
                colour::INK
            );
        }
    }

    fn places(&mut self) {
        for object in &self.job.site.objects {
            let ObjectKind::Place(place) = &object.what else {
                continue;
            };
            let (letter, legend) = match place.kind {
                PlaceKind::Water => ("W", Legend::Water),
                PlaceKind::Meter => ("M", Legend::Water),
                PlaceKind::Power => continue,
                PlaceKind::Controller => ("C", Legend::Controller),
                PlaceKind::ValveBox => ("V", Legend::Box),
            };
            self.legend.insert(legend);
            let (x, y) = self.on(place.at);
            let numbers: Vec<String> = self
                .job
                .valves
                .iter()
                .filter(|v| place.kind == PlaceKind::ValveBox && self.job.box_of(v) == Some(&object.id))
                .map(|v| self.job.valve_number(&v.id).to_string())
                .collect();
            let _ = write!(
                self.out,
                r#"<rect x="{:.2}" y="{:.2}" width="4" height="4" fill="{}"/><text x="{x:.2}" y="{:.2}"
                  font-size="3" font-weight="700" text-anchor="middle" fill="{}">{letter}</text>"#,
                x - 2.0,
                y - 2.0,
                colour::INK,
                y + 1.1,
                colour::WHITE
            );
            if !numbers.is_empty() {
                let numbers = numbers.join(" ");
                // A pipe seen between two numbers would read as part of them.
                let _ = write!(
                    self.out,
                    r#"<rect x="{:.2}" y="{:.2}" width="{:.2}" height="2.6" fill="{}"/>"#,
                    x + 2.2,
                    y - 1.3,
                    numbers.len() as f64 * 1.3 + 0.8,
                    colour::WHITE
                );
                self.text(x + 2.6, y + 0.9, 2.4, "start", &numbers);
            }
        }
    }

    fn names(&mut self) {
        for object in &self.job.site.objects {
            let at = match &object.what {
                ObjectKind::Area(area) => area.shape.inner_point(),
                ObjectKind::Dry(KeepDry { form: Form::Region(shape), .. }) => shape.inner_point(),
                ObjectKind::Note(note) => {
                    let (x, y) = self.on(note.at);
                    self.text(x, y, 2.4, "start", &note.text);
                    continue;
                }
                _ => continue,
            };
            let (x, y) = self.on(at);
            let title = object.title().to_owned();
            if !title.is_empty() {
                self.text(x, y, 2.6, "middle", &title);
            }
        }
    }

    /// Words with a light edge, so that lines under them do not cross them.
    fn text(&mut self, x: f64, y: f64, size: f64, anchor: &str, text: &str) {
        let said = escape(text);
        let common = format!(r#"x="{x:.2}" y="{y:.2}" font-size="{size}" text-anchor="{anchor}""#);
        let _ = write!(
            self.out,
            r#"<text {common} fill="none" stroke="{}" stroke-width="0.7"
              stroke-linejoin="round">{said}</text><text {common} fill="{}">{said}</text>"#,
            colour::WHITE,
            colour::INK
        );
    }
}

/// The sign of a legend's entry, 14 by 5 mm.
pub fn legend_sign(entry: Legend, letters: JointLetters) -> String {
    let ink = colour::INK;
    let white = colour::WHITE;
    let zone = colour::ZONE_1;
    let body = match entry {
        Legend::Main => format!(
            r#"<path d="M0 2.5H14" stroke="{ink}" stroke-width="1"/><path d="M0 2.5H14" stroke="{white}" stroke-width="0.45"/>"#
        ),
        Legend::Lateral => format!(r#"<path d="M0 2.5H14" stroke="{zone}" stroke-width="0.45"/>"#),
        Legend::Sleeve => format!(
            r#"<path d="M0 1.4H14M0 3.6H14" stroke="{ink}" stroke-width="0.25"/><path d="M0 2.5H14"
              stroke="{zone}" stroke-width="0.45"/>"#
        ),
        Legend::Head => format!(
            r#"<circle cx="7" cy="2.5" r="0.9" fill="{white}" stroke="{zone}" stroke-width="0.35"/>
              <path d="M7 2.5H9" stroke="{zone}" stroke-width="0.35"/>"#
        ),
        Legend::Drip => format!(r#"<path d="M0 1.5H14M0 3.5H14" stroke="{zone}" stroke-width="0.18"/>"#),
        Legend::Box | Legend::Controller | Legend::Water => {
            let letter = match entry {
                Legend::Box => "V",
                Legend::Controller => "C",
                _ => "M",
            };
            format!(
                r#"<rect x="5" y="0.5" width="4" height="4" fill="{ink}"/><text x="7" y="3.6"
                  font-size="3" font-weight="700" text-anchor="middle" fill="{white}">{letter}</text>"#
            )
        }
        Legend::Joint => format!(
            r#"<circle cx="7" cy="2.5" r="1.5" fill="{white}" stroke="{ink}" stroke-width="0.3"/>
              <text x="7" y="3.2" font-size="2" text-anchor="middle" fill="{ink}">{}</text>"#,
            letters.isolation
        ),
        Legend::Plant => format!(
            r#"<circle cx="7" cy="2.5" r="2" fill="none" stroke="{}" stroke-width="0.15" stroke-dasharray="0.9 0.6"/>"#,
            colour::SOFT
        ),
        Legend::NoDig => format!(
            r##"<rect x="2" y="0.8" width="10" height="3.4" fill="#f6e9e4" stroke="{ink}" stroke-width="0.2"/>"##
        ),
    };
    format!(
        r#"<svg xmlns="http://www.w3.org/2000/svg" width="14mm" height="5mm" viewBox="0 0 14 5"
          font-family="Atkinson Hyperlegible Next">{body}</svg>"#
    )
}
