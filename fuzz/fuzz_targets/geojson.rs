#![no_main]

use libfuzzer_sys::fuzz_target;

fuzz_target!(|file: &[u8]| {
    if let Ok(drawing) = fenlo_formats::drawing::read_geojson(file) {
        let handed = fenlo_formats::foreign::read_foreign(fenlo_formats::foreign::Foreign::Drawing, "x.json", 1, file.to_vec());
        let taken = fenlo_formats::foreign::take_drawing(&handed.expect("read once, read again"));
        assert_eq!(taken.expect("ours"), drawing);
    }
});
