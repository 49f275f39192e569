//! Documents read back by another library: text is there, pages and their sizes are right, a scale measures
//! right.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

use fenlo_core::assess::assess;
use fenlo_core::job::Job;
use fenlo_core::plan::Plan;
use fenlo_core::pricing::{PriceBook, SectionBy, quote};
use fenlo_core::takeoff::takeoff;
use fenlo_formats::{read_job, read_prices};
use fenlo_papers::{Kind, Lang, Paper, PaperError, Request, make};
use lopdf::content::Content;
use lopdf::{Document, Object};
use serde_json::{Value, json};

fn demo(name: &str) -> Plan {
    let path = format!("{}/../web/demo/{name}.json", env!("CARGO_MANIFEST_DIR"));
    read_job(&std::fs::read(path).unwrap()).unwrap().into_plan()
}

fn book() -> PriceBook {
    let path = format!("{}/../web/demo/prices.csv", env!("CARGO_MANIFEST_DIR"));
    read_prices(&std::fs::read(path).unwrap()).unwrap()
}

fn made(kind: Kind, lang: Lang, paper: Paper, job: Plan, more: Value) -> (Vec<u8>, Document) {
    let pdf = make(&Request { kind, lang, paper, job, more }).unwrap();
    let read = Document::load_mem(&pdf).unwrap();
    (pdf, read)
}

fn text(read: &Document) -> String {
    let pages: Vec<u32> = read.get_pages().keys().copied().collect();
    let all = read.extract_text(&pages).unwrap();
    all.split_whitespace().collect::<Vec<_>>().join(" ")
}

/// Width and height of a page, points.
fn size(read: &Document, page: u32) -> (f32, f32) {
    let id = read.get_pages()[&page];
    let boxed = read.get_object(id).unwrap().as_dict().unwrap().get(b"MediaBox").unwrap();
    let of: Vec<f32> = boxed.as_array().unwrap().iter().map(|n| n.as_float().unwrap()).collect();
    (of[2] - of[0], of[3] - of[1])
}

#[test]
fn the_packet_has_its_parts_as_real_text_in_both_languages() {
    let (pdf, read) = made(Kind::Packet, Lang::En, Paper::Letter, demo("corner-plot"), Value::Null);
    let said = text(&read);
    for part in [
        "Corner plot, Harrow Bend",
        "Valve table",
        "Have utilities located and marked before trenching.",
        "Head layout",
        "Trenches and sleeves",
        "Cut lists",
        "Test sheet",
        "Controller schedule",
        "Parts checklist",
        "PVC tee, threaded outlet",
    ] {
        assert!(said.contains(part), "{part}");
    }
    assert!(!said.contains("USD"), "the crew's packet has no prices");
    assert!(pdf.len() < 5_000_000, "{} bytes", pdf.len());
    let (_, read) = made(Kind::Packet, Lang::Es, Paper::A4, demo("corner-plot"), Value::Null);
    let said = text(&read);
    for part in [
        "Tabla de válvulas",
        "Pedir que localicen y marquen las líneas subterráneas",
        "Trazo",
        "Lista",
        "Hoja de pruebas",
        "Programa del controlador",
        "Te de PVC con salida roscada",
    ] {
        assert!(said.contains(part), "{part}");
    }
    for english in ["Caution", "Trenches", "Valve table", "elbow", "Pop-up"] {
        assert!(!said.contains(english), "{english} is left in English");
    }
}

#[test]
fn a_caution_stands_before_the_steps_that_it_is_for() {
    let (_, read) = made(Kind::Packet, Lang::En, Paper::Letter, demo("corner-plot"), Value::Null);
    let said = text(&read);
    let at = |what: &str| said.find(what).unwrap_or_else(|| panic!("no {what}"));
    assert!(at("Trencher: guards on") < at("Dig per trench list"));
    assert!(at("Primer and cement: fresh air") < at("PVC: cut square"));
    assert!(at("Never stand over a fitting") < at("Flush the mainline, then each lateral"));
    assert!(at("Line voltage and pumps") < at("Wire in the mainline trench"));
}

#[test]
fn pages_have_the_size_of_their_paper_and_the_file_its_title_and_bookmarks() {
    let (_, read) = made(Kind::Packet, Lang::En, Paper::A4, demo("bowls-green"), Value::Null);
    let (w, h) = size(&read, 1);
    assert!((w - 595.28).abs() < 0.5 && (h - 841.89).abs() < 0.5, "{w} {h}");
    let (_, read) = made(Kind::Plan, Lang::En, Paper::A3, demo("bowls-green"), Value::Null);
    let (w, h) = size(&read, 1);
    let (long, short) = (w.max(h), w.min(h));
    assert!((short - 841.89).abs() < 0.5 && (long - 1190.55).abs() < 0.5, "{w} {h}");
    let catalog = read.catalog().unwrap();
    assert!(catalog.get(b"Outlines").is_ok(), "bookmarks");
    let info = read.trailer.get(b"Info").unwrap().as_reference().unwrap();
    let title = read.get_dictionary(info).unwrap().get(b"Title").unwrap();
    let title = lopdf::decode_text_string(title).unwrap();
    assert!(title.contains("Bowls green"), "{title}");
}

/// The widths of rectangles on a page, points, as they are drawn after its own transforms.
fn rectangles(read: &Document, page: u32) -> Vec<f64> {
    let id = read.get_pages()[&page];
    let content = Content::decode(&read.get_page_content(id)).unwrap();
    let number = |o: &Object| f64::from(o.as_float().unwrap_or(0.0));
    let mut scale = vec![1.0];
    let mut widths = Vec::new();
    let mut from: Option<(f64, f64)> = None;
    for op in &content.operations {
        match op.operator.as_str() {
            "q" => scale.push(*scale.last().unwrap()),
            "Q" => {
                scale.pop();
            }
            "cm" => *scale.last_mut().unwrap() *= number(&op.operands[0]).abs(),
            "re" => widths.push(number(&op.operands[2]).abs() * scale.last().unwrap()),
            "m" => from = Some((number(&op.operands[0]), number(&op.operands[1]))),
            "l" => {
                let to = (number(&op.operands[0]), number(&op.operands[1]));
                if let Some(a) = from.filter(|a| (a.1 - to.1).abs() < 1e-6) {
                    widths.push((a.0 - to.0).abs() * scale.last().unwrap());
                }
                from = Some(to);
            }
            _ => {}
        }
    }
    widths
}

#[test]
fn a_line_of_ten_feet_measures_half_an_inch_at_an_inch_to_twenty_feet() {
    let (_, read) = made(Kind::Plan, Lang::En, Paper::Letter, demo("corner-plot"), Value::Null);
    let said = text(&read);
    assert!(said.contains("1 in = 20 ft (1:240)"), "{said}");
    // A field of the bar is 10 ft: half an inch, 36 points.
    let all = rectangles(&read, 1);
    assert!(all.iter().any(|w| (w - 36.0).abs() < 0.05), "{all:?}");
}

#[test]
fn a_large_site_is_parted_over_sheets_that_can_still_be_read() {
    let (_, read) = made(Kind::Plan, Lang::En, Paper::A4, demo("veterinary-clinic"), Value::Null);
    let said = text(&read);
    let total = read.get_pages().len();
    assert!(said.contains("Sheet 2 /"), "parted");
    assert!(said.contains("1:240"), "at a scale that is read beside a box");
    assert!((4..=26).contains(&total), "{total}");
}

#[test]
fn a_quote_shows_what_the_customer_pays_and_not_what_it_costs_the_house() {
    let plan = demo("corner-plot");
    let job = Job::of(&plan);
    let book = book();
    let on = "2026-05-01".parse().unwrap();
    let quote = quote(&job, &takeoff(&job, &assess(&job)), &book, on, SectionBy::Work);
    let total = fenlo_words::money(quote.total, &quote.currency);
    let cost = fenlo_words::money(quote.cost, &quote.currency);
    let more = json!({"quote": quote, "version": 3, "note": "With the rose bed"});
    let (_, read) = made(Kind::Quote, Lang::En, Paper::Letter, plan, more);
    let said = text(&read);
    assert!(said.contains("Quote 3") && said.contains("With the rose bed"), "{said}");
    assert!(said.contains(&total), "{total} in {said}");
    assert!(!said.contains(&cost), "{cost}");
    for supplier in ["Northgate", "Mill Lane Trade"] {
        assert!(!said.contains(supplier), "{supplier}");
    }
}

#[test]
fn options_are_a_column_each_with_a_box_to_tick() {
    let plan = demo("corner-plot");
    let job = Job::of(&plan);
    let on = "2026-05-01".parse().unwrap();
    let one = quote(&job, &takeoff(&job, &assess(&job)), &book(), on, SectionBy::Work);
    let mut other = one.clone();
    other.total += rust_decimal::Decimal::ONE_HUNDRED;
    let more = json!({"options": [
        {"quote": one, "version": 1, "note": "Sprays"}, {"quote": other, "version": 2, "note": "Rotators"},
    ]});
    for (lang, words) in [
        (Lang::En, ["Option 1", "Option 2", "Total", "Signature"]),
        (Lang::Es, ["Opción 1", "Opción 2", "Total", "Firma"]),
    ] {
        let (_, read) = made(Kind::Quote, lang, Paper::Letter, plan.clone(), more.clone());
        let said = text(&read);
        for q in [&one, &other] {
            let total = fenlo_words::money(q.total, &q.currency);
            assert!(said.contains(&total), "{total} in {said}");
        }
        for word in words.iter().chain(&["Sprays", "Rotators"]) {
            assert!(said.contains(word), "{word} in {said}");
        }
    }
}

#[test]
fn names_in_any_script_print_no_boxes() {
    let mut plan = demo("bowls-green");
    plan.name = "Ćwikła – сад – 芝生 \u{1f331} ≤ ⅜".into();
    let (_, read) = made(Kind::Packet, Lang::En, Paper::A4, plan, Value::Null);
    let said = text(&read);
    let bare: String = said.chars().filter(|c| !c.is_whitespace()).collect();
    assert!(bare.contains("сад–???≤⅜"), "what no font has is a question mark: {bare:.200}");
}

#[test]
fn what_can_not_be_made_is_said() {
    let ask = |kind, more| {
        make(&Request { kind, lang: Lang::En, paper: Paper::A4, job: demo("bowls-green"), more })
    };
    assert!(matches!(ask(Kind::Quote, Value::Null), Err(PaperError::Asked(_))));
    assert!(matches!(ask(Kind::Order, json!({"bags": 3})), Err(PaperError::Asked(_))));
    // A job with nothing in it has a packet still.
    let empty = make(&Request {
        kind: Kind::Packet,
        lang: Lang::Es,
        paper: Paper::Letter,
        job: Plan::new("New", fenlo_core::units::UnitSystem::Us),
        more: Value::Null,
    });
    assert!(empty.unwrap().starts_with(b"%PDF"));
}
