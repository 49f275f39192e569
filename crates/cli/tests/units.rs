//! Every sentence, label and working of the reports in the units of the job that is read: the demo jobs in
//! three systems, sound ones and spoilt in ways that make many findings speak.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

#[path = "../../words/tests/plain/mod.rs"]
mod plain;

use plain::{bare_amount, unplain};
use serde_json::{Value, json};
use std::process::{Command, Stdio};

/// Units that only one of the systems shows. Inches and millimetres name pipe and thread in both.
const US: [&str; 11] = ["psi", "gpm", "gph", "ft", "ft2", "ft²", "gal", "ft/s", "in/h", "mph", "in/week"];
const METRIC: [&str; 12] = ["kPa", "bar", "L/min", "L/h", "m", "m2", "m²", "m³", "L", "m/s", "mm/h", "km/h"];

const DEMOS: [(&str, &str); 4] = [
    ("corner-plot", include_str!("../../web/demo/corner-plot.json")),
    ("veterinary-clinic", include_str!("../../web/demo/veterinary-clinic.json")),
    ("bowls-green", include_str!("../../web/demo/bowls-green.json")),
    ("courtyard", include_str!("../../web/demo/courtyard.json")),
];

/// What a job is spoilt by.
type Spoil = fn(&mut Value);

fn each(plan: &mut Value, list: &str, change: impl Fn(&mut Value)) {
    plan[list].as_array_mut().into_iter().flatten().for_each(change);
}

/// Every static reading of every supply, and pumps left as they are.
fn statics(plan: &mut Value, pressure: &str) {
    each(plan, "supplies", |s| {
        each(s, "readings", |r| {
            if r["measured"]["is"] == "static" {
                r["measured"]["pressure"] = json!(pressure);
            }
        });
        let running = |r: &Value| r["measured"]["is"] != "dynamic";
        if let Some(list) = s["readings"].as_array_mut() {
            list.retain(running);
        }
    });
}

const SPOILT: [(&str, Spoil); 6] = [
    ("sound", |_| {}),
    ("far too much pressure", |p| statics(p, "120 psi")),
    ("hardly any pressure", |p| statics(p, "24 psi")),
    ("no regulator, no filter", |p| {
        each(p, "valves", |v| {
            v["regulation"] = json!({ "at": "none" });
            v.as_object_mut().unwrap().remove("filter");
        });
    }),
    ("heads high above their valve", |p| {
        each(p, "groups", |g| g["rise"] = json!("14 ft"));
        each(p, "supplies", |s| s["gauge_height"] = json!("9 ft"));
    }),
    ("thin pipe, far away", |p| {
        each(p, "groups", |g| {
            g["pipe"] = json!("pvc-40 1/2in");
            g["distance"] = json!("220 ft");
        });
        each(&mut p["piping"], "legs", |l| l["pipe"] = json!("pvc-40 1/2in"));
    }),
];

fn texts<'v>(value: &'v Value, key: &str, out: &mut Vec<(String, &'v str)>) {
    match value {
        // The edit of a remedy is a file format: quantities with the unit that they were typed in.
        Value::Object(map) => map
            .iter()
            .filter(|(k, _)| !["edit", "job"].contains(&k.as_str()))
            .for_each(|(k, v)| texts(v, k, out)),
        Value::Array(list) => list.iter().for_each(|v| texts(v, key, out)),
        Value::String(text) => out.push((key.to_owned(), text)),
        _ => {}
    }
}

/// A figure with one of the units behind it.
fn foreign(text: &str, units: &[&str]) -> Option<String> {
    let words: Vec<&str> = text.split_whitespace().collect();
    let bare = |w: &str| w.trim_matches(|c: char| "()[],.;:".contains(c)).to_owned();
    words.windows(2).find_map(|pair| {
        let figure = bare(pair[0]);
        let number = figure.trim_start_matches(['+', '-', '−', '±', '<', '>', '~']);
        let is_figure =
            !number.is_empty() && number.chars().all(|c| c.is_ascii_digit() || "., /–".contains(c));
        (is_figure && units.contains(&bare(pair[1]).as_str())).then(|| pair.join(" "))
    })
}

fn run(args: &[&str]) -> (bool, String, String) {
    let mut command = Command::new(env!("CARGO_BIN_EXE_fenlo"));
    let output = command.args(args).stdin(Stdio::null()).output().unwrap();
    let said = |bytes: Vec<u8>| String::from_utf8(bytes).unwrap();
    // 3: a check that found something to stop for.
    (matches!(output.status.code(), Some(0 | 3)), said(output.stdout), said(output.stderr))
}

#[test]
fn every_text_of_the_reports_is_in_the_units_of_the_job() {
    let mut wrong: Vec<String> = Vec::new();
    let (mut looked, mut codes) = (0, std::collections::BTreeSet::new());
    for (name, file) in DEMOS {
        for (spoilt, spoil) in SPOILT {
            for (system, others) in [("us", &METRIC[..]), ("metric", &US[..]), ("metric-bar", &US[..])] {
                // The largest job takes longest: spoilt in fewer ways. Bars differ from kPa in their words alone.
                let large =
                    name == "veterinary-clinic" && !["sound", "no regulator, no filter"].contains(&spoilt);
                if large || system == "metric-bar" && spoilt != "sound" {
                    continue;
                }
                // Names of the job are its people's.
                let mut plan: Value = serde_json::from_str(file).unwrap();
                plan["units"] = json!(system);
                spoil(&mut plan);
                let path = format!("{}/units-{name}-{system}.json", env!("CARGO_TARGET_TMPDIR"));
                std::fs::write(&path, plan.to_string()).unwrap();
                let (done, checked, faults) = run(&["check", &path, "--format", "json"]);
                if !done {
                    assert!(faults.contains(": "), "{name}, {spoilt}: {faults}");
                    continue;
                }
                let checked: Value = serde_json::from_str(&checked).unwrap();
                let mut all = Vec::new();
                texts(&checked, "", &mut all);
                codes.extend(all.iter().filter(|t| t.0 == "code").map(|t| t.1.to_owned()));
                let text = if spoilt == "sound" { run(&["check", &path]).1 } else { String::new() };
                all.extend(text.lines().map(|l| ("text".to_owned(), l)));
                looked += all.len();
                for (key, text) in all {
                    if let Some(found) = foreign(text, others).or_else(|| unplain(text)) {
                        wrong.push(format!("{name}, {spoilt}, {system}, {key}: ‘{found}’ in {text}"));
                    }
                }
            }
        }
    }
    wrong.sort();
    wrong.dedup();
    assert!(wrong.is_empty(), "{} texts:\n{}", wrong.len(), wrong.join("\n"));
    assert!(looked > 5_000, "{looked} texts");
    // So many kinds of finding spoke.
    assert!(codes.len() > 25, "{codes:?}");
}

#[test]
fn run_times_and_parts_are_in_the_units_of_the_job_too() {
    let mut wrong: Vec<String> = Vec::new();
    for (name, file) in DEMOS {
        for (system, others) in [("us", &METRIC[..]), ("metric", &US[..])] {
            let mut plan: Value = serde_json::from_str(file).unwrap();
            plan["units"] = json!(system);
            let path = format!("{}/units-too-{name}-{system}.json", env!("CARGO_TARGET_TMPDIR"));
            std::fs::write(&path, plan.to_string()).unwrap();
            let prices = concat!(env!("CARGO_MANIFEST_DIR"), "/../web/demo/prices.csv");
            let quote: &[&str] = &["--prices", prices];
            for (command, more) in [("times", &[][..]), ("parts", &[]), ("parts", quote), ("quote", quote)] {
                let (done, text, faults) = run(&[&[command, path.as_str()], more].concat());
                assert!(done, "{name} {command}: {faults}");
                assert!(text.lines().count() > 5, "{name} {command}: {text}");
                // Of what is priced no amount stands without its currency.
                let amount = |l: &str| bare_amount(l).filter(|_| !more.is_empty());
                let lines = text.lines().filter_map(|l| {
                    Some((l, foreign(l, others).or_else(|| unplain(l)).or_else(|| amount(l))?))
                });
                wrong.extend(lines.map(|(l, found)| format!("{name} {command} {system}: ‘{found}’ in {l}")));
            }
        }
    }
    assert!(wrong.is_empty(), "{} texts:\n{}", wrong.len(), wrong.join("\n"));
}

#[test]
fn a_figure_in_a_foreign_unit_is_found_and_names_of_pipe_are_not() {
    assert_eq!(foreign("leaves 31 psi.", &US).as_deref(), Some("31 psi."));
    assert_eq!(foreign("(about 9 m)", &METRIC).as_deref(), Some("9 m)"));
    assert_eq!(foreign("Class 200 3/4 in, 12 m of it", &US), None);
    assert_eq!(foreign("the bar stands; m is metres", &METRIC), None);
}

#[test]
fn a_count_that_disagrees_a_hyphen_and_a_bare_amount_are_found() {
    for bad in ["1 heads have no valve", "Lowest cost: 3 line", "1,000 head", "−4 ft and -3 ft"] {
        assert!(unplain(bad).is_some(), "{bad}");
    }
    for good in
        ["1 head has no valve", "3 heads", "−3 ft", "valve 3 (Lawn)", "valve 1, heads", "12 valve boxes"]
    {
        assert_eq!(unplain(good), None, "{good}");
    }
    for bad in ["your cost 12.50", "12.50, freight", "(1,200.00)", "−3.20"] {
        assert!(bare_amount(bad).is_some(), "{bad}");
    }
    for good in ["your cost $12.50", "12.50 EUR", "0.25 gpm, 18 in", "−$3.20", "12.5"] {
        assert_eq!(bare_amount(good), None, "{good}");
    }
}
