//! The command as a user runs it.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

use std::process::{Command, Output, Stdio};

fn fenlo(args: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_fenlo")).args(args).stdin(Stdio::null()).output().unwrap()
}
fn out(args: &[&str]) -> String {
    let output = fenlo(args);
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    String::from_utf8(output.stdout).unwrap()
}
/// What a check prints; its exit code tells whether a Stop finding stands.
fn check(file: &str, more: &[&str]) -> String {
    let output = fenlo(&[&["check", file], more].concat());
    let printed = String::from_utf8(output.stdout).unwrap();
    let stops = !printed.contains("\nStop 0, ") && !printed.contains("\"stop\": 0,");
    assert_eq!(
        output.status.code(),
        Some(if stops { 3 } else { 0 }),
        "{}",
        String::from_utf8_lossy(&output.stderr)
    );
    printed
}
fn refused(args: &[&str]) -> String {
    let output = fenlo(args);
    assert_eq!(output.status.code(), Some(2));
    String::from_utf8(output.stderr).unwrap()
}
fn job(name: &str) -> String {
    format!("{}/../../fixtures/{name}.json", env!("CARGO_MANIFEST_DIR"))
}

const QUESTION: [&str; 24] = [
    "quick",
    "--static",
    "64psi",
    "--meter",
    "3/4in",
    "--service",
    "1in copper-l 55ft",
    "--backflow",
    "vacuum-breaker",
    "--head",
    "spray-12",
    "--arc",
    "180",
    "--count",
    "9",
    "--spacing",
    "12ft",
    "--pipe",
    "class-200 3/4in",
    "--distance",
    "40ft",
    "--rise",
    "2ft",
    "--arrangement=chain",
];

#[test]
fn check_reports_the_demo_jobs() {
    for name in ["corner-plot", "bowls-green", "veterinary-clinic"] {
        insta::assert_snapshot!(name, check(&job(name), &[]));
    }
}

#[test]
fn check_as_json_agrees_with_the_text() {
    let json: serde_json::Value =
        serde_json::from_str(&check(&job("corner-plot"), &["--format", "json"])).unwrap();
    assert_eq!(json["zones"].as_array().unwrap().len(), 5);
    let text = check(&job("corner-plot"), &[]);
    assert!(text.contains(&format!("Stop {}, Fix {}, Watch {}", json["stop"], json["fix"], json["watch"])));
    let starved = &json["zones"][1]["findings"][0];
    assert_eq!(starved["code"], "head-starved");
    assert!(starved["remedies"][0]["effect"].as_str().unwrap().contains("psi"));
}

#[test]
fn quick_answers_the_daily_question() {
    insta::assert_snapshot!(out(&QUESTION));
}

#[test]
fn quick_writes_the_network_that_it_solved() {
    let file = std::env::temp_dir().join(format!("fenlo-quick-{}.json", std::process::id()));
    let path = file.to_str().unwrap();
    let json: serde_json::Value = serde_json::from_str(&out(&[
        &QUESTION[..],
        &["--regulate", "valve:34psi", "--json", "--network", path],
    ]
    .concat()))
    .unwrap();
    let solved: serde_json::Value = serde_json::from_str(&out(&["solve", path])).unwrap();
    std::fs::remove_file(&file).unwrap();
    let last = json["zone"]["last_head_kpa"].as_f64().unwrap();
    assert!((solved["emitters"]["g1.9"]["nozzle_kpa"].as_f64().unwrap() - last).abs() < 0.001);
    assert_eq!(solved["links"]["to-regulator"]["state"], "active");
}

#[test]
fn wrong_flags_are_named_all_at_once() {
    let mut args = QUESTION.map(str::to_owned);
    for (flag, value) in [
        ("--static", "0psi"),
        ("--spacing", "12 apples"),
        ("--pipe", "class-200 9in"),
        ("--head", "spray-99"),
    ] {
        let at = args.iter().position(|a| a == flag).unwrap();
        args[at + 1] = value.to_owned();
    }
    let args: Vec<&str> = args.iter().map(String::as_str).collect();
    assert_eq!(refused(&args), "--spacing: ‘apples’ is not a unit of length. Use ft, in, m, mm, cm\n");
    let mended: Vec<&str> = args.iter().map(|a| if *a == "12 apples" { "12ft" } else { a }).collect();
    let said = refused(&mended);
    assert!(
        said.contains("--static: must be more than zero")
            && said.contains("--pipe: ")
            && said.contains("--head: "),
        "{said}"
    );
}

#[test]
fn bad_files_are_refused_with_exit_code_2() {
    assert!(refused(&["solve", "/nowhere.json"]).starts_with("/nowhere.json: "));
    assert!(refused(&["check", &job("../Cargo.toml")]).contains("No such file"));
    assert!(
        refused(&["solve", &job("corner-plot")]).starts_with("name: unknown field")
            || refused(&["solve", &job("corner-plot")]).contains("unknown field")
    );
}

#[test]
fn propose_lays_out_an_area_and_prints_what_its_water_does() {
    let file = job("corner-plot");
    let text = out(&["propose", &file, "--area", "a1", "--kind", "spray", "--steps", "layout", "--json"]);
    let value: serde_json::Value = serde_json::from_str(&text).unwrap();
    assert_eq!(value["format"], "fenlo-propose/1");
    let areas = value["areas"].as_array().unwrap();
    let front = areas.iter().find(|a| a["id"] == "a1").unwrap();
    let figure = |key: &str| front[key].as_f64().unwrap();
    assert_eq!(front["nozzle_kind"], "spray");
    assert!(figure("du_expected") < figure("du_ideal") && figure("du_ideal") > 0.75);
    let rate = figure("rate_mmph") / figure("kind_rate_mmph");
    assert!((0.8..=1.15).contains(&rate) && figure("off_area") < 0.065, "{front}");
    // The job that comes with it has those heads, and is a job again.
    let groups = value["job"]["groups"].as_array().unwrap();
    let drawn = groups.iter().filter(|g| g["area"] == "a1");
    let heads: usize = drawn.map(|g| g["drawn"].as_array().map_or(0, Vec::len)).sum();
    assert_eq!(heads as u64, front["heads"].as_u64().unwrap());
    // As text, and what can't be.
    assert!(out(&["propose", &file, "--area", "a1", "--steps", "layout"]).contains("DU ideal"));
    assert!(refused(&["propose", &file, "--area", "a99"]).contains("unknown area ‘a99’"));
    assert!(refused(&["propose", &file, "--kind", "hose"]).contains("unknown head type ‘hose’. Use spray"));
}

/// The corner plot with its ground and water and nothing else, as a file.
fn bare(change: impl Fn(&mut serde_json::Value)) -> String {
    let text = std::fs::read_to_string(job("corner-plot")).unwrap();
    let mut plan: serde_json::Value = serde_json::from_str(&text).unwrap();
    plan["groups"] = serde_json::json!([]);
    plan["valves"] = serde_json::json!([]);
    change(&mut plan);
    let name = format!(
        "{}/bare-{}.json",
        env!("CARGO_TARGET_TMPDIR"),
        plan["site"]["things"].as_array().unwrap().len()
    );
    std::fs::write(&name, plan.to_string()).unwrap();
    name
}

#[test]
fn propose_makes_a_whole_plan_of_bare_ground() {
    let file = bare(|_| {});
    let whole = format!("{}/whole.json", env!("CARGO_TARGET_TMPDIR"));
    let text = out(&["propose", &file, "-o", &whole, "--json"]);
    let value: serde_json::Value = serde_json::from_str(&text).unwrap();
    assert_eq!(value["impossible"], serde_json::json!([]));
    let figure = |key: &str| value["routes"][key].as_f64().unwrap();
    assert!(figure("trench_m_bound") > 50.0 && figure("trench_m_bound") <= figure("trench_m"));
    assert!(figure("cost_bound") <= figure("cost"));
    // The job that was written checks out: every head on a valve and on its pipe, at its pressure.
    let checked: serde_json::Value =
        serde_json::from_str(&out(&["check", &whole, "--format", "json"])).unwrap();
    assert_eq!((&checked["stop"], &checked["valves"]["unassigned_heads"]), (&0.into(), &0.into()));
    let said = checked.to_string();
    for code in [
        "head-off-lateral",
        "off-main",
        "pipe-under",
        "unsleeved-crossing",
        "head-starved",
        "below-aim",
        "velocity",
    ] {
        assert!(
            !said.contains(&format!("\"code\": \"{code}\""))
                && !said.contains(&format!("\"code\":\"{code}\"")),
            "{code}"
        );
    }
    let pipes = checked["pipes"].as_array().unwrap();
    for kind in ["main", "lateral"] {
        let own: Vec<_> = pipes.iter().filter(|p| p["kind"] == kind).collect();
        assert!(!own.is_empty(), "{kind}");
        for pipe in own {
            let number = |key: &str| pipe[key].as_f64().unwrap();
            assert!(
                number("length_m") > 0.0 && number("inside_mm") > 15.0 && number("velocity_mps") < 1.53,
                "{pipe}"
            );
            // v = Q / (π d² / 4), written out again.
            let v = number("flow_lpm")
                / 60_000.0
                / (std::f64::consts::PI * (number("inside_mm") / 1000.0).powi(2) / 4.0);
            assert!((v - number("velocity_mps")).abs() < 1e-6);
        }
    }
    let trench: f64 =
        checked["trenches"].as_array().unwrap().iter().map(|t| t["length_m"].as_f64().unwrap()).sum();
    assert!(trench <= checked["routes"]["trench_m"].as_f64().unwrap() + 1e-6);
    // The same ground, the same plan.
    assert_eq!(text, out(&["propose", &file, "-o", &whole, "--json"]));
}

#[test]
fn a_split_says_what_it_would_change_of_the_valves_that_there_are() {
    let file = bare(|_| {});
    let once = format!("{}/once.json", env!("CARGO_TARGET_TMPDIR"));
    let propose = |file: &str, steps: &str| -> serde_json::Value {
        let text = out(&["propose", file, "--steps", steps, "-o", &once, "--json"]);
        serde_json::from_str(&text).unwrap()
    };
    // Where no valve was there is nothing that could change; nor where the split stands already.
    assert_eq!(propose(&file, "layout,split")["changed"], serde_json::json!([]));
    let again = propose(&once, "split");
    assert_eq!(again["changed"], serde_json::json!([]), "{}", again["said"]);
    // A head taken off its valve comes back to it: that valve alone is named, one head more on it.
    let mut job: serde_json::Value = serde_json::from_str(&std::fs::read_to_string(&once).unwrap()).unwrap();
    let groups = job["groups"].as_array_mut().unwrap();
    let head = groups.iter_mut().find_map(|g| g["drawn"].as_array_mut()?.last_mut()).unwrap();
    assert!(head.as_object_mut().unwrap().remove("valve").is_some());
    let loose = format!("{}/loose.json", env!("CARGO_TARGET_TMPDIR"));
    std::fs::write(&loose, job.to_string()).unwrap();
    let back = propose(&loose, "split");
    let changed = back["changed"].as_array().unwrap();
    assert_eq!(changed.len(), 1, "{changed:?}");
    let heads = |state: &str| changed[0][state]["heads"].as_u64().unwrap();
    assert_eq!(heads("now"), heads("was") + 1);
    assert!(changed[0]["now"]["flow_lpm"].as_f64() > changed[0]["was"]["flow_lpm"].as_f64());
    let text = out(&["propose", &loose, "--steps", "split"]);
    assert!(text.contains("heads"), "{text}");
}

#[test]
fn what_can_t_be_proposed_is_told_with_exit_code_2_and_the_rest_is_written() {
    let no_meter = bare(|plan| {
        let things = plan["site"]["things"].as_array_mut().unwrap();
        things.retain(|t| t["what"]["kind"] != "meter");
    });
    let whole = format!("{}/no-meter.json", env!("CARGO_TARGET_TMPDIR"));
    let said = refused(&["propose", &no_meter, "-o", &whole]);
    assert!(said.contains("is not on the plan"), "{said}");
    let written = std::fs::read_to_string(&whole).unwrap();
    assert!(written.contains("\"lateral\""), "laterals are there all the same");
    assert!(!fenlo(&["propose", &no_meter, "--steps", "paint"]).status.success());
}

#[test]
fn solve_tells_its_times_on_standard_error() {
    let network = format!("{}/net.json", env!("CARGO_TARGET_TMPDIR"));
    let mut question = QUESTION.to_vec();
    question.extend(["--network", &network]);
    out(&question);
    let output = fenlo(&["solve", &network, "--timings"]);
    let said = String::from_utf8(output.stderr).unwrap();
    assert!(
        output.status.success()
            && said.starts_with("read ")
            && said.contains("solve ")
            && said.contains(" us"),
        "{said}"
    );
    assert!(String::from_utf8(output.stdout).unwrap().contains("pressure"));
}

#[test]
fn check_as_json_has_areas_counts_and_each_zones_own_flow() {
    let text = check(&job("corner-plot"), &["--format", "json"]);
    let value: serde_json::Value = serde_json::from_str(&text).unwrap();
    let design = &value["supplies"][0]["design"];
    let own = design["by_zone"].as_array().unwrap();
    // Drip limits no sprinkler valve: four of the five have a flow of their own.
    assert_eq!(own.len(), 4);
    assert!(own.iter().all(|z| z["flow_lpm"].as_f64().is_some_and(|f| f > 0.0)));
    assert_eq!(design["assumed"], false);
    let zones = value["zones"].as_array().unwrap();
    let front = &zones[0];
    let count = |key: &str| front["fits"][key].as_u64().unwrap();
    assert!(count("nominal") <= count("aim") && count("aim") <= count("least"));
    assert!(["flow", "pressure", "velocity"].contains(&front["limited_by"].as_str().unwrap()));
    let area = &value["areas"][0];
    assert_eq!(area["nozzle_kind"], "rotator");
    for share in ["off_area", "on_dry", "du_ideal", "du_expected"] {
        assert!((0.0..=1.0).contains(&area[share].as_f64().unwrap()), "{share}");
    }
}

#[test]
fn rows_are_as_long_as_is_known_and_what_is_wrong_is_named() {
    let row = |more: &[&str]| -> serde_json::Value {
        let mut args = vec!["rows", "--inlet", "25psi", "--emitter", "0.6gph", "--every", "12in", "--json"];
        args.extend_from_slice(more);
        serde_json::from_str(&out(&args)).unwrap()
    };
    let level = row(&["--inside", "0.560in", "--c", "140", "--least", "8.5psi"]);
    assert_eq!(level["emitters"], 415);
    let near = |value: &serde_json::Value, want: f64| (value.as_f64().unwrap() - want).abs() < 0.01;
    assert!(near(&level["length_m"], 415.0 * 0.3048) && near(&level["flow_lpm"], 4.15 * 3.785_411_784));
    assert!(near(&level["last_kpa"], 8.533 * 6.894_757));
    assert_eq!(row(&["--slope", "3%"])["emitters"], 368);
    assert_eq!(row(&["--slope", "-3%"])["emitters"], 454);
    let all = refused(&[
        "rows",
        "--inlet",
        "25",
        "--emitter",
        "0gph",
        "--every",
        "12in",
        "--slope",
        "400",
        "--c",
        "1",
    ]);
    for flag in ["--inlet", "--emitter", "--slope", "--c"] {
        assert!(all.contains(flag), "{flag}: {all}");
    }
}

#[test]
fn times_are_told_as_text_and_as_json_and_what_is_wrong_is_named() {
    let house = job("corner-plot");
    let climate = std::env::temp_dir().join(format!("fenlo-climate-{}.csv", std::process::id()));
    std::fs::write(&climate, "month,et0 in/week,rain in/week\n7,1.90,0\n").unwrap();
    let file = climate.to_str().unwrap();
    let args = ["times", &house, "--climate", file, "--month", "7", "--year", "2026"];
    insta::assert_snapshot!("times", out(&args));
    let json: serde_json::Value = serde_json::from_str(&out(&[&args[..], &["--json"]].concat())).unwrap();
    let stations = json["stations"].as_array().unwrap();
    assert_eq!(stations.len(), 5);
    let lawn = &stations[0];
    let number = |key: &str| lawn[key].as_f64().unwrap();
    // Turf 0.8 of 1.90 in; minutes by the rate and the evenness that stand beside them.
    let need = number("need_mm_week");
    assert!((need - 1.90 * 25.4 * number("factor")).abs() < 1e-6);
    let minutes = 60.0 * need / number("rate_mmph") / (0.4 + 0.6 * number("du"));
    assert!((number("minutes_week") - minutes).abs() < 1e-6);
    let given = number("days") * number("cycles") * number("minutes_cycle");
    assert!(given >= minutes - 0.5, "{given} of {minutes}");
    let night = &json["night"];
    assert!(night["finish"].as_u64() >= night["lower_bound"].as_u64());
    // Other months want less than July: left at July's minutes each would give more than it should.
    let saved = json["saved_by_months"]["litres"].as_f64().unwrap();
    let year: f64 = json["year"].as_array().unwrap().iter().filter_map(|m| m["litres"].as_f64()).sum();
    assert!(saved > 0.0 && saved < year, "{saved} of {year}");
    let runs: u64 = stations.iter().map(|s| s["cycles"].as_u64().unwrap()).sum();
    assert_eq!(night["runs"].as_array().unwrap().len() as u64, runs);
    assert!(night["lowest_margin_kpa"].is_number());
    let year = json["year"].as_array().unwrap();
    assert_eq!(year.len(), 12);
    assert_eq!(year[6]["stations"][0]["cycles"], lawn["cycles"]);
    assert!((year[6]["seasonal_adjust"].as_f64().unwrap() - 1.0).abs() < 1e-9);
    assert!(out(&["times", &house, "--ics", "--year", "2026"]).starts_with("BEGIN:VCALENDAR"));
    assert!(out(&["times", &house, "--csv", "--year", "2026"]).starts_with("controller,programme,station"));
    let said = refused(&["times", &house, "--month", "13", "--latitude", "95"]);
    assert!(said.contains("--month: from 1 to 12") && said.contains("--latitude"), "{said}");
    std::fs::write(&climate, "month,rain mm\n7,3\n").unwrap();
    assert!(refused(&args).contains("line 1: the header needs a column ‘et0’"));
    std::fs::remove_file(&climate).unwrap();
}
