//! A job with the background picture it: out as a ZIP, in again, and what could not be brought.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

use fenlo_core::plan::Plan;
use fenlo_core::site::{Point, Underlay};
use fenlo_core::units::{Length, UnitSystem};
use fenlo_formats::foreign::{Foreign, HandedJob, Told, read_foreign, take_job};
use fenlo_formats::picture::{Scan, read_picture};
use fenlo_formats::{pack_job, read_job, write_job};
use std::io::{Cursor, Write};

fn scan() -> Scan {
    let path = format!("{}/../web/tests/scan.png", env!("CARGO_MANIFEST_DIR"));
    read_picture(std::fs::read(path).unwrap(), 1).unwrap()
}

fn plan(scan: &Scan) -> Plan {
    let mut plan = Plan::new("Packed", UnitSystem::Metric);
    plan.site.underlay = Some(Underlay {
        picture: scan.name.clone(),
        width: scan.width,
        height: scan.height,
        at: Point::new(1.0, 2.0),
        pixel: Length::from_m(0.05),
        degrees: 0.0,
        strength: 0.5,
    });
    plan
}

fn brought(file: Vec<u8>) -> Result<HandedJob, Vec<Told>> {
    read_foreign(Foreign::Job, "", 1, file).map(|handed| take_job(handed).unwrap())
}

#[test]
fn a_zip_brings_the_picture_back_beneath_the_job() {
    let scan = scan();
    let plan = plan(&scan);
    let zip = pack_job(&write_job(&plan), Some((&scan.name, scan.kind, &scan.bytes))).unwrap();
    let handed = brought(zip).unwrap();
    assert_eq!(handed.left, [""; 0]);
    let picture = handed.picture.unwrap();
    let job = read_job(&handed.job).unwrap();
    let underlay = job.site.underlay.as_ref().unwrap();
    assert_eq!(underlay.picture, picture.name, "the picture that lies beneath is the one that came");
    assert_eq!((picture.width, picture.height), (scan.width, scan.height));
    assert_eq!(underlay.at, Point::new(1.0, 2.0));
}

#[test]
fn what_could_not_be_brought_is_said_and_nothing_broken_lies_beneath() {
    let scan = scan();
    let json = write_job(&plan(&scan));
    let alone = brought(json.clone().into_bytes()).unwrap();
    assert!(alone.left[0].contains("has none") && alone.picture.is_none());
    assert_eq!(read_job(&alone.job).unwrap().site.underlay, None);
    // A picture that is none, and one of another size.
    let broken = pack_job(&json, Some((&scan.name, "image/png", b"not a picture"))).unwrap();
    assert!(brought(broken).unwrap().left[0].starts_with("the background picture"));
    let mut small = plan(&scan);
    small.site.underlay.as_mut().unwrap().width = 50;
    let other = pack_job(&write_job(&small), Some((&scan.name, scan.kind, &scan.bytes))).unwrap();
    assert!(brought(other).unwrap().left[0].contains("not the size"));
    // Without a picture beneath nothing is missed.
    let bare = write_job(&Plan::new("Bare", UnitSystem::Us));
    let handed = brought(pack_job(&bare, None).unwrap()).unwrap();
    assert_eq!((handed.left.len(), handed.picture), (0, None));
}

#[test]
fn zips_that_mean_harm_are_refused() {
    let zip = |files: &[(&str, Vec<u8>)]| {
        let mut zip = zip::ZipWriter::new(Cursor::new(Vec::new()));
        let packed =
            zip::write::SimpleFileOptions::default().compression_method(zip::CompressionMethod::Deflated);
        for (name, bytes) in files {
            zip.start_file(*name, packed).unwrap();
            zip.write_all(bytes).unwrap();
        }
        zip.finish().unwrap().into_inner()
    };
    let said = |file: Vec<u8>| brought(file).unwrap_err()[0].message.clone();
    assert!(said(zip(&[("readme.txt", b"hello".to_vec())])).contains("no job.json"));
    assert!(said(zip(&[("job.json", b"{}".to_vec())])).len() > 3);
    // 60 MB of blanks in 60 kB.
    let bomb = zip(&[("job.json", vec![b' '; 60_000_000])]);
    assert!(bomb.len() < 200_000 && said(bomb).contains("unpacks to more than 5 MB"));
    let many: Vec<(String, Vec<u8>)> = (0..200).map(|i| (format!("f{i}"), Vec::new())).collect();
    let many: Vec<(&str, Vec<u8>)> = many.iter().map(|(n, b)| (n.as_str(), b.clone())).collect();
    assert!(said(zip(&many)).contains("has 200 files"));
    let whole = zip(&[("job.json", b"{}".to_vec())]);
    assert!(said(whole[..whole.len() / 2].to_vec()).contains("ZIP cannot be read"));
    // What is does not belong to a job file is told, and names of files lead nowhere.
    let good = write_job(&Plan::new("Bare", UnitSystem::Us)).into_bytes();
    let handed = brought(zip(&[("job.json", good), ("../../etc/passwd", b"x".to_vec())])).unwrap();
    assert!(handed.left[0].contains("does not belong to a job file"));
}
