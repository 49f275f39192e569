//! Whole drawings of the demo jobs: sound XML, finite figures, every thing of the plan in its place, to scale.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

use fenlo_core::assess::assess;
use fenlo_core::job::Job;
use fenlo_core::plan::{LegOf, Plan};
use fenlo_core::site::ObjectKind;
use fenlo_core::steps::Step;
use fenlo_core::zoning::later_areas;
use fenlo_drawing::board::{Beside, board_svg, frame, main};
use fenlo_drawing::{JointLetters, how_drawing, measure_sheet, plan_sheet};
use roxmltree::{Document, Node};
use std::collections::BTreeSet;

const DEMOS: [(&str, &str); 4] = [
    ("corner-plot", include_str!("../../web/demo/corner-plot.json")),
    ("veterinary-clinic", include_str!("../../web/demo/veterinary-clinic.json")),
    ("bowls-green", include_str!("../../web/demo/bowls-green.json")),
    ("courtyard", include_str!("../../web/demo/courtyard.json")),
];

fn demos() -> impl Iterator<Item = (&'static str, Plan)> {
    DEMOS.into_iter().map(|(name, file)| (name, serde_json::from_str(file).unwrap()))
}

/// The figures of an attribute that is a path, a place or a size.
fn figures(text: &str) -> impl Iterator<Item = &str> {
    text.split(|c: char| !(c.is_ascii_digit() || "+-.eE".contains(c)))
        .filter(|t| t.chars().any(|c| c.is_ascii_digit()))
}

/// No drawing holds what a reader stumbles over.
fn sound<'d>(name: &str, document: &'d Document<'_>) -> Vec<Node<'d, 'd>> {
    let all: Vec<Node<'_, '_>> = document.descendants().filter(Node::is_element).collect();
    for node in &all {
        for attribute in node.attributes() {
            let (key, value) = (attribute.name(), attribute.value());
            assert!(!value.contains("NaN") && !value.contains("inf"), "{name} {key}: {value}");
            if ["d", "x", "y", "cx", "cy", "r", "width", "height", "viewBox"].contains(&key) {
                let shown: Vec<char> = value.chars().filter(|c| c.is_alphabetic()).collect();
                assert!(key != "r" || !value.starts_with('-'), "{name}: a radius of {value}");
                assert!(
                    figures(value).next().is_some() || shown.is_empty() || value.is_empty(),
                    "{name} {key}: {value}"
                );
            }
        }
    }
    let ids: Vec<&str> = all.iter().filter_map(|n| n.attribute("id")).collect();
    let unlike: BTreeSet<&str> = ids.iter().copied().collect();
    assert_eq!(ids.len(), unlike.len(), "{name}: two things of one id");
    all
}

#[test]
fn every_thing_of_a_demo_job_stands_on_its_board() {
    for (name, plan) in demos() {
        let job = Job::of(&plan);
        let svg = board_svg(&job, &assess(&job));
        let document = Document::parse(&svg).unwrap_or_else(|e| panic!("{name}: {e}"));
        let all = sound(name, &document);
        let drawn: BTreeSet<&str> = all.iter().filter_map(|n| n.attribute("id")).collect();
        for object in &plan.site.objects {
            assert!(drawn.contains(format!("t-{}", object.id).as_str()), "{name}: {}", object.id);
        }
        for head in plan.groups.iter().filter(|g| g.drip.is_none()).flat_map(|g| &g.drawn) {
            assert!(drawn.contains(format!("t-{}", head.id).as_str()), "{name}: head {}", head.id);
        }
        for leg in &plan.piping.legs {
            assert!(drawn.contains(format!("t-{}", leg.id).as_str()), "{name}: leg {}", leg.id);
        }
        // Nothing lies outside the frame: heads by their place.
        let (left, bottom, right, top) = frame(&job);
        let inside = |x: f64, y: f64| left <= x && x <= right && bottom <= y && y <= top;
        assert!(plan.groups.iter().flat_map(|g| &g.drawn).all(|h| inside(h.at.x, h.at.y)), "{name}");
    }
}

#[test]
fn sheets_are_to_scale_and_hold_each_leg_and_head() {
    for (name, plan) in demos() {
        let job = Job::of(&plan);
        let window = frame(&job);
        for scale in [50.0, 100.0, 200.0] {
            let sheet = plan_sheet(&job, window, scale, JointLetters::ENGLISH);
            let document = Document::parse(&sheet.svg).unwrap_or_else(|e| panic!("{name}: {e}"));
            sound(name, &document);
            let root = document.root_element();
            let mm = |key: &str| -> f64 {
                let text = root.attribute(key).unwrap();
                text.strip_suffix("mm").unwrap().parse().unwrap()
            };
            // A metre of ground is 1000 mm over the scale of paper.
            assert!((mm("width") - (window.2 - window.0) * 1000.0 / scale).abs() < 0.01, "{name}");
            assert!((mm("height") - (window.3 - window.1) * 1000.0 / scale).abs() < 0.01, "{name}");
            let words = |n: &Node<'_, '_>| n.text().unwrap_or_default().to_owned();
            let texts: Vec<String> =
                document.descendants().filter(|n| n.has_tag_name("text")).map(|n| words(&n)).collect();
            for area in plan.site.areas().map(|(o, _)| o.title()) {
                let told =
                    texts.iter().any(|t| t.contains(area) || area.starts_with(t.trim_end_matches('…')));
                assert!(told || scale > 100.0, "{name} 1:{scale}: {area} in {texts:?}");
            }
        }
    }
}

#[test]
fn what_comes_later_has_its_stub_on_board_and_paper() {
    let (_, mut plan) = demos().next().unwrap();
    let without = plan_sheet(&Job::of(&plan), frame(&plan), 100.0, JointLetters::ENGLISH).svg;
    // A lawn that no heads stand on yet, beside the plot.
    let mut later = plan.site.objects.iter().find(|o| matches!(o.what, ObjectKind::Area(_))).unwrap().clone();
    later.id = "later".into();
    later.name = "Orchard".into();
    if let ObjectKind::Area(area) = &mut later.what {
        area.later = true;
    }
    plan.site
        .objects
        .push(later.moved(fenlo_core::site::Motion::Shift { by: fenlo_core::site::Point::new(60.0, 0.0) }));
    let job = Job::of(&plan);
    let stub = later_areas(&job, None)[0].stub.clone().expect("a main is drawn");
    assert!(job.piping.legs.iter().any(|l| l.of == LegOf::Main(stub.supply.clone())));
    let board = main(&job, &assess(&job), &Beside::of(&job), &stub.supply);
    let document = Document::parse(&board).unwrap();
    let drawn: Vec<_> =
        document.descendants().filter(|n| n.attribute("class") == Some("for-later")).collect();
    assert_eq!(drawn.len(), 1);
    let title = drawn[0].descendants().find(|n| n.has_tag_name("title")).and_then(|n| n.text()).unwrap();
    assert!(title.starts_with("Orchard: ") && title.contains("capped stub"), "{title}");
    let way = drawn[0].descendants().find(|n| n.has_tag_name("path")).unwrap().attribute("d").unwrap();
    let ends: Vec<f64> = figures(way).map(|f| f.parse().unwrap()).collect();
    let wanted = [stub.from.x, -stub.from.y, stub.to.x, -stub.to.y];
    assert!(ends.iter().zip(wanted).all(|(a, b)| (a - b).abs() < 0.001), "{ends:?} {wanted:?}");
    let with = plan_sheet(&job, frame(&job), 100.0, JointLetters::ENGLISH).svg;
    let dashes = |svg: &str| svg.matches("stroke-dasharray").count();
    assert!(dashes(&with) > dashes(&without), "{} {}", dashes(&with), dashes(&without));
}

#[test]
fn drawings_that_teach_are_sound_too() {
    for step in Step::ALL {
        let svg = how_drawing(step);
        let document = Document::parse(&svg).unwrap();
        let all = sound("how", &document);
        assert!(all.len() > 5 && document.root_element().attribute("aria-label").is_some(), "{svg}");
    }
    let sheet = measure_sheet();
    let document = Document::parse(&sheet).unwrap();
    sound("measure", &document);
    // Circles as large as what they measure: the largest thread is 33.4 mm.
    let largest =
        document.descendants().filter_map(|n| n.attribute("r")?.parse::<f64>().ok()).fold(0.0, f64::max);
    assert!((largest - 16.7).abs() < 0.01, "{largest}");
}
