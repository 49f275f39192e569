//! Pictures that are damaged are refused or unpacked, never a panic and never beyond the limits.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

use fenlo_formats::picture::read_picture;
use proptest::prelude::*;

fn file(name: &str) -> Vec<u8> {
    std::fs::read(format!("{}/../web/tests/{name}", env!("CARGO_MANIFEST_DIR"))).unwrap()
}

/// The scan as a JPEG.
fn photo() -> Vec<u8> {
    let mut out = std::io::Cursor::new(Vec::new());
    image::load_from_memory(&file("scan.png"))
        .unwrap()
        .to_rgb8()
        .write_to(&mut out, image::ImageFormat::Jpeg)
        .unwrap();
    out.into_inner()
}

#[test]
fn a_photo_stays_one() {
    let kept = read_picture(photo(), 1).unwrap();
    assert_eq!((kept.width, kept.height, kept.kind), (200, 140, "image/jpeg"));
}

#[test]
fn a_scan_keeps_its_size_and_a_page_is_drawn_at_150_dots() {
    let scan = read_picture(file("scan.png"), 1).unwrap();
    assert_eq!((scan.width, scan.height, scan.kind), (200, 140, "image/png"));
    assert_eq!(read_picture(file("scan.png"), 1).unwrap().name, scan.name, "named by what it holds");
    // 300 by 200 points are 4 1/6 by 2 7/9 inches.
    let page = read_picture(file("page.pdf"), 1).unwrap();
    assert_eq!((page.width, page.height), (625, 416));
    let drawn = image::load_from_memory(&page.bytes).unwrap().to_rgb8();
    let at = |x: u32, y: u32| drawn.get_pixel(x, y).0;
    assert_eq!(at(2, 2), [255, 255, 255], "white paper");
    // The filled box of 40 to 140 across and 40 to 100 up, seen from the top: middle at 90, 130 down.
    assert!(at(187, 270)[1] > at(187, 270)[2] + 30, "{:?}", at(187, 270));
    assert_eq!(read_picture(file("page.pdf"), 2).unwrap_err(), "The PDF has 1 page. Choose page 1");
    assert!(read_picture(file("page.pdf"), 0).is_err());
}

fn picture(name: &str) -> Vec<u8> {
    std::fs::read(format!("{}/tests/pictures/{name}", env!("CARGO_MANIFEST_DIR"))).unwrap()
}

#[test]
fn a_photo_is_turned_and_mirrored_as_the_camera_noted() {
    for note in 1..=8 {
        let scan = read_picture(picture(&format!("turned-{note}.jpg")), 1).unwrap();
        assert_eq!((scan.width, scan.height), (24, 16), "{note}");
        let drawn = image::load_from_memory(&scan.bytes).unwrap().to_rgb8();
        let is = |x: u32, y: u32, colour: [u8; 3]| {
            let got = drawn.get_pixel(x, y).0;
            assert!(got.iter().zip(colour).all(|(a, b)| a.abs_diff(b) < 60), "{note} at {x}, {y}: {got:?}");
        };
        is(5, 3, [220, 0, 0]);
        is(18, 3, [0, 0, 220]);
        is(5, 12, [255, 255, 255]);
        is(18, 12, [255, 255, 255]);
    }
}

#[test]
fn a_picture_that_was_not_copied_whole_is_refused() {
    for whole in [photo(), picture("turned-6.jpg"), file("scan.png")] {
        for share in [0.5, 0.8, 0.97] {
            let cut = whole[..(whole.len() as f64 * share) as usize].to_vec();
            let said = read_picture(cut, 1).unwrap_err();
            assert!(said.contains("incomplete") || said.contains("cannot be unpacked"), "{said}");
        }
        assert!(read_picture(whole, 1).is_ok());
    }
}

#[test]
fn a_locked_page_says_so_and_a_page_knows_its_size_on_paper() {
    let said = read_picture(picture("locked.pdf"), 1).unwrap_err();
    assert!(said.contains("locked with a password"), "{said}");
    // 150 dots to the inch: at 1:100 a pixel covers 16.93 mm of ground.
    let page = read_picture(file("page.pdf"), 1).unwrap();
    assert!((page.paper.unwrap() * 100.0 - 0.016_933).abs() < 1e-5, "{:?}", page.paper);
    assert_eq!(read_picture(file("scan.png"), 1).unwrap().paper, None);
}

proptest! {
    #![proptest_config(ProptestConfig {
        cases: 120,
        rng_seed: proptest::test_runner::RngSeed::Fixed(20_261_127),
        ..ProptestConfig::default()
    })]

    #[test]
    fn damage_never_panics(
        at in 0.0..1.0f64,
        what in prop::collection::vec(any::<u8>(), 0..16),
        cut in any::<bool>(),
        which in 0..3usize,
    ) {
        let mut bytes = match which {
            0 => file("scan.png"),
            1 => file("page.pdf"),
            _ => photo(),
        };
        let i = ((bytes.len() - 1) as f64 * at) as usize;
        if cut { bytes.truncate(i) } else { bytes.splice(i..(i + what.len()).min(bytes.len()), what.iter().copied()).for_each(drop) }
        if let Ok(scan) = read_picture(bytes, 1) {
            prop_assert!(scan.width <= 4_000 && scan.height <= 4_000 && scan.width > 0);
        }
    }
}
