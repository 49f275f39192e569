//! Price books in and out; lists of parts and quotes opened by another library.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

use calamine::{Data, Reader, Xlsx};
use fenlo_core::assess::assess;
use fenlo_core::job::Job;
use fenlo_core::plan::{ArcCount, HeadGroup, PartLine, Plan, Valve};
use fenlo_core::pricing::{PriceBook, SectionBy, quote};
use fenlo_core::takeoff::takeoff;
use fenlo_core::units::UnitSystem;
use fenlo_formats::{
    parts_workbook, prices_workbook, quote_workbook, read_prices, write_parts, write_prices,
};
use rust_decimal::Decimal;
use std::io::Cursor;

const GOOD: &str = "\
number,text,part,supplier,price,pack,minimum,carriage,free from,date,currency
4711,Dripline 500 ft,dripline-0.6-12in@500ft,Northgate,60.00,1,1,12,49,2026-03-01,USD
4711,Dripline 500 ft,dripline-0.6-12in@500ft,Mill Lane,58.50,1,1,,,,USD
E1,Emitter,emitter-1,Northgate,0.31,25,1,,,2026-03-01,USD
";

fn d(text: &str) -> Decimal {
    text.parse().unwrap()
}

/// (line, message) of every fault.
fn faults(text: &str) -> Vec<(usize, String)> {
    let faults = read_prices(text.as_bytes()).unwrap_err();
    faults.into_iter().map(|f| (f.line, f.message)).collect()
}

fn prices(book: &PriceBook) -> Vec<(String, String, Decimal)> {
    let all = book.prices.iter();
    all.map(|p| (p.number.clone(), p.supplier.clone(), p.price)).collect()
}

#[test]
fn a_book_is_read_with_its_terms_packs_and_numbers() {
    let book = read_prices(GOOD.as_bytes()).unwrap();
    assert_eq!(book.currency, "USD");
    assert_eq!(book.prices.len(), 3);
    let north = book.supplier("Northgate");
    assert_eq!((north.carriage, north.free_from), (d("12"), Some(d("49"))));
    assert_eq!(book.supplier("Mill Lane").carriage, Decimal::ZERO);
    assert_eq!(book.prices[2].pack, 25);
    assert_eq!(book.number_of("dripline-0.6-12in@500ft"), "4711");
}

#[test]
fn what_goes_out_comes_back_as_csv_and_as_workbook() {
    let mut book = read_prices(GOOD.as_bytes()).unwrap();
    // A name that a spreadsheet would run, and one in another script.
    book.prices[0].text = "=HYPERLINK(\"x\")".into();
    book.prices[1].text = "Капельная линия 滴灌".into();
    let csv = write_prices(&book);
    assert!(csv.contains("'=HYPERLINK"), "it is text to a spreadsheet");
    assert_eq!(read_prices(csv.as_bytes()).unwrap(), book);
    let bytes = prices_workbook(&book).unwrap();
    assert_eq!(read_prices(&bytes).unwrap(), book);
}

#[test]
fn semicolons_commas_before_cents_and_older_code_pages_are_read() {
    let text = "Number;Supplier;Price\nA-1;Müller;1.234,50\nA-2;Müller;0,31\n";
    let bytes: Vec<u8> = text.chars().map(|c| if c == 'ü' { 0xfc } else { c as u8 }).collect();
    let book = read_prices(&bytes).unwrap();
    assert_eq!(
        prices(&book),
        [
            ("A-1".into(), "Müller".into(), d("1234.50").normalize()),
            ("A-2".into(), "Müller".into(), d("0.31"))
        ]
    );
    let tabs = read_prices(b"number\tsupplier\tprice\nA\tNorth\t2.50\n").unwrap();
    assert_eq!(tabs.prices[0].price, d("2.5"));
}

#[test]
fn every_fault_is_told_with_its_line_and_nothing_is_taken_over() {
    let text = "\
number,supplier,price,pack,currency
A,North,-1,1,USD
A2,North,1e12,1,USD
A3,North,99999999,1,USD
A4,North,\"12,5\",1,USD
A5,North,,1,USD
A6,North,2,0,USD
A7,North,2,1,EUR
A8,North,2,1,EUR
A8,North,3,1,EUR
,North,3,1,USD
A9,,3,1,USD
A10,North,3,half,EUR
A11,North,2,1,USD
";
    let all = faults(text);
    let says = |line: usize, words: &str| {
        assert!(all.iter().any(|f| f.0 == line && f.1.contains(words)), "line {line} ‘{words}’: {all:?}");
    };
    says(2, "below zero");
    says(3, "is not an amount");
    says(4, "Check the value");
    says(5, "ambiguous");
    says(6, "no price");
    says(7, "pack");
    says(10, "twice for North");
    says(11, "needs an item number");
    says(12, "needs a supplier");
    says(13, "not a whole number");
    // The first sound row decides the currency.
    says(14, "one currency");
}

#[test]
fn headers_and_separators_that_are_wrong_are_said_once() {
    let said = faults("number|supplier|price\nA|North|2\n");
    assert_eq!(said.len(), 1);
    assert!(said[0].1.contains("no column ‘number’"), "{said:?}");
    assert!(faults("")[0].1.contains("empty"));
    assert!(faults("number,supplier,price\n")[0].1.contains("no prices"));
    assert!(faults("number,number,supplier,price\nA,A,N,1\n")[0].1.contains("two columns"));
    assert!(read_prices(b"PK\x03\x04 no workbook").is_err());
    assert!(read_prices(&[0, 1, 2, 3, 0, 0]).unwrap_err()[0].message.contains("not text"));
}

#[test]
fn a_workbook_that_unpacks_to_far_more_than_it_is_is_not_unpacked() {
    let book = read_prices(GOOD.as_bytes()).unwrap();
    let mut bytes = prices_workbook(&book).unwrap();
    // The directory of the archive says how large its parts are: the first one claims 3 GB.
    let entry = bytes.windows(4).position(|w| w == b"PK\x01\x02").unwrap();
    bytes[entry + 24..entry + 28].copy_from_slice(&3_000_000_000u32.to_le_bytes());
    let said = read_prices(&bytes).unwrap_err();
    assert!(said[0].message.contains("unpacks to 3000 MB"), "{said:?}");
    let half = prices_workbook(&book).unwrap();
    let said = read_prices(&half[..half.len() / 2]).unwrap_err();
    assert!(said[0].message.contains("cut short"), "{said:?}");
}

#[test]
fn one_part_can_not_have_two_numbers() {
    let text = "number,part,supplier,price\nA,tee,North,1\nB,tee,North,1\n";
    assert!(faults(text)[0].1.contains("has the number A already"));
}

fn job() -> Job {
    let mut plan = Plan::new("Listed", UnitSystem::Us);
    plan.valves.push(Valve::new("v1", "Front", "s1"));
    plan.groups.push(HeadGroup {
        listed: vec![ArcCount { arc: 180, count: 4, valve: Some("v1".into()) }],
        ..HeadGroup::new("g1", "Front", "spray-12")
    });
    plan.parts.lines.push(PartLine {
        id: "l1".into(),
        part: None,
        text: "=1+1".into(),
        quantity: 1.0,
        unit: "@each".into(),
    });
    Job::new(plan)
}

#[test]
fn the_list_goes_out_as_csv_without_formulas_in_it() {
    let job = job();
    let csv = write_parts(&job, &takeoff(&job, &assess(&job)), None);
    let mut reader = csv::Reader::from_reader(csv.as_bytes());
    let rows: Vec<csv::StringRecord> = reader.records().map(Result::unwrap).collect();
    let heads = rows.iter().find(|r| &r[1] == "body-4in").unwrap();
    assert_eq!((&heads[0], &heads[3], &heads[4]), ("head", "4", "each"));
    let pipe = rows.iter().find(|r| r[1].starts_with("class-200")).unwrap();
    assert_eq!((&pipe[1], &pipe[5]), ("class-200-3/4in@20ft", "20 ft"));
    assert!(rows.iter().any(|r| &r[2] == "'=1+1" && &r[4] == "'@each"));
}

/// The cells of a sheet by another library.
fn cells(bytes: &[u8], sheet: &str) -> Vec<Vec<Data>> {
    let mut book: Xlsx<_> = Xlsx::new(Cursor::new(bytes.to_vec())).unwrap();
    book.worksheet_range(sheet).unwrap().rows().map(<[Data]>::to_vec).collect()
}

#[test]
fn workbooks_open_and_their_sums_are_formulas() {
    let job = job();
    let taken = takeoff(&job, &assess(&job));
    let text: String = taken
        .lines
        .iter()
        .enumerate()
        .map(|(i, l)| {
            let key = fenlo_core::pricing::part_key(&l.part, l.piece);
            format!("n{i},{key},North,{}.25\n", i + 1)
        })
        .collect();
    let book = read_prices(format!("number,part,supplier,price\n{text}").as_bytes()).unwrap();
    let sheet = cells(&parts_workbook(&job, &taken, Some(&book)).unwrap(), "Parts");
    assert_eq!(sheet.len(), taken.lines.len() + 2, "a header, the lines, the sum");
    assert_eq!(sheet[0][1], Data::String("part".into()));
    let quote = quote(&job, &taken, &book, "2026-05-01".parse().unwrap(), SectionBy::Work);
    let bytes = quote_workbook(&quote, |s| format!("{s:?}")).unwrap();
    let mut opened: Xlsx<_> = Xlsx::new(Cursor::new(bytes.clone())).unwrap();
    let formulas = opened.worksheet_formula("Quote").unwrap();
    let all: Vec<&String> = formulas.rows().flatten().filter(|f| !f.is_empty()).collect();
    assert!(all.iter().any(|f| f.contains("SUM(Materials!F2:")), "{all:?}");
    let total: f64 = quote.total.try_into().unwrap();
    let has_total = cells(&bytes, "Quote").iter().flatten().any(|c| match c {
        Data::Float(n) => (n - total).abs() < 0.005,
        Data::Int(n) => (*n as f64 - total).abs() < 0.005,
        _ => false,
    });
    assert!(has_total, "the sum stands in the file too, for those who do not reckon");
}
