//! Parts, quote and packet as a user runs them.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

use serde_json::Value;
use std::process::{Command, Output, Stdio};

fn fenlo(args: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_fenlo")).args(args).stdin(Stdio::null()).output().unwrap()
}
fn out(args: &[&str]) -> String {
    let output = fenlo(args);
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    String::from_utf8(output.stdout).unwrap()
}
fn refused(args: &[&str]) -> String {
    let output = fenlo(args);
    assert_eq!(output.status.code(), Some(2));
    String::from_utf8(output.stderr).unwrap()
}
fn root(path: &str) -> String {
    format!("{}/../../{path}", env!("CARGO_MANIFEST_DIR"))
}

#[test]
fn the_list_of_the_demo_house_stands() {
    let job = root("crates/web/demo/corner-plot.json");
    insta::assert_snapshot!(out(&["parts", &job]));
}

#[test]
fn drip_whose_inlet_stands_on_its_header_is_joined_and_not_closed_there() {
    // Rose bed and hedge hang on 1/2 in poly and have headers of 3/4 in: one reduction each, no closed end.
    let job = root("crates/web/demo/corner-plot.json");
    let read: Value = serde_json::from_str(&out(&["parts", &job, "--json"])).unwrap();
    let lines = read["lines"].as_array().unwrap();
    let line = |text: &str| lines.iter().find(|l| l["text"] == text);
    assert!(line("Drip line end 1/2 in").is_none(), "{:?}", line("Drip line end 1/2 in"));
    let reduced = line("Drip reducing coupling 3/4 in to 1/2 in").unwrap();
    assert_eq!((&reduced["quantity"], &reduced["from"]), (&2.0.into(), &serde_json::json!(["h27", "h28"])));
}

#[test]
fn every_line_of_the_json_has_what_scripts_read() {
    const KINDS: [&str; 14] = [
        "pipe",
        "tubing",
        "fitting",
        "head",
        "nozzle",
        "valve",
        "box",
        "regulator",
        "filter",
        "backflow",
        "wire",
        "controller",
        "drip",
        "sundry",
    ];
    for name in ["corner-plot", "veterinary-clinic", "bowls-green", "courtyard"] {
        let job = root(&format!("crates/web/demo/{name}.json"));
        let read: Value = serde_json::from_str(&out(&["parts", &job, "--json"])).unwrap();
        let lines = read["lines"].as_array().unwrap();
        assert!(lines.len() > 5, "{name}");
        for line in lines {
            assert!(KINDS.contains(&line["kind"].as_str().unwrap()), "{line}");
            for key in ["part", "text", "unit"] {
                assert!(!line[key].as_str().unwrap().is_empty(), "{line}");
            }
            let (quantity, used) = (line["quantity"].as_f64().unwrap(), line["used"].as_f64().unwrap());
            assert!(quantity > 0.0, "{line}");
            if let Some(piece) = line["piece_m"].as_f64() {
                assert!(quantity * piece >= used - 1e-6, "what is bought covers what is laid: {line}");
            }
            assert!(line["from"].is_array());
        }
    }
}

#[test]
fn with_prices_the_cheapest_basket_is_never_dearer_than_one_supplier() {
    let (job, book) = (root("crates/web/demo/bowls-green.json"), root("crates/web/demo/prices.csv"));
    let read: Value = serde_json::from_str(&out(&["parts", &job, "--prices", &book, "--json"])).unwrap();
    let sum = |v: &Value| v.as_str().unwrap().parse::<f64>().unwrap();
    let best = sum(&read["baskets"]["best"]["total"]);
    assert!(best > 100.0);
    assert!(sum(&read["baskets"]["best"]["least"]) <= best);
    for alone in read["baskets"]["alone"].as_array().unwrap() {
        if alone["lacks"].as_array().unwrap().is_empty() {
            assert!(best <= sum(&alone["total"]), "{alone}");
        }
    }
}

#[test]
fn a_quote_adds_up_and_books_with_faults_are_refused_by_line() {
    let (job, book) = (root("crates/web/demo/corner-plot.json"), root("crates/web/demo/prices.csv"));
    let read = out(&["quote", &job, "--prices", &book, "--on", "2026-05-01", "--json"]);
    let quote: Value = serde_json::from_str(&read).unwrap();
    let cents = |v: &Value| (v.as_str().unwrap().parse::<f64>().unwrap() * 100.0).round() as i64;
    let sections: i64 = quote["sections"].as_array().unwrap().iter().map(|s| cents(&s["price"])).sum();
    assert_eq!(sections, cents(&quote["subtotal"]));
    assert_eq!(cents(&quote["subtotal"]) + cents(&quote["tax"]), cents(&quote["total"]));
    assert_eq!(quote["until"], "2026-05-31");
    let folder = std::env::temp_dir().join(format!("fenlo-parts-{}", std::process::id()));
    std::fs::create_dir_all(&folder).unwrap();
    let bad = folder.join("bad.csv");
    std::fs::write(&bad, "number,supplier,price\nA,North,-2\nB,North,2\n").unwrap();
    let said = refused(&["parts", &job, "--prices", bad.to_str().unwrap()]);
    assert!(said.contains("line 2: price is below zero"), "{said}");
    let euros = folder.join("euros.csv");
    std::fs::write(&euros, "number,supplier,price,currency\nA,North,2,EUR\n").unwrap();
    assert!(refused(&["quote", &job, "--prices", euros.to_str().unwrap()]).contains("EUR"));
    let book = folder.join("list.xlsx");
    out(&["parts", &job, "--xlsx", book.to_str().unwrap()]);
    assert!(std::fs::read(&book).unwrap().starts_with(b"PK"));
    assert!(refused(&["packet", &job, "--lang", "fr", "-o", "x.pdf"]).contains("en or es"));
    assert!(refused(&["packet", &job, "--paper", "a9", "-o", "x.pdf"]).contains("letter, a4, a3 or a1"));
    std::fs::remove_dir_all(folder).unwrap();
}
