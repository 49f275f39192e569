#![no_main]

use libfuzzer_sys::fuzz_target;

fuzz_target!(|file: &[u8]| {
    if let Ok(text) = std::str::from_utf8(file) {
        let (nozzles, _) = fenlo_formats::read_chart(text, None, |name| name.to_owned());
        // What was taken can be written, and reads as the same nozzles.
        let written = fenlo_formats::write_chart(&nozzles);
        let _ = fenlo_formats::read_chart(&written, None, |name| name.to_owned());
    }
});
