#![no_main]

use libfuzzer_sys::fuzz_target;

fuzz_target!(init: {
    // Panics within the parsing library are caught by the reader, and are faults of the file.
    std::panic::set_hook(Box::new(|_| ()));
}, |file: &[u8]| {
    if let Ok(drawing) = fenlo_formats::drawing::read_dxf(file) {
        // What is read can be handed over, and is the same on the other side.
        let handed = fenlo_formats::foreign::read_foreign(fenlo_formats::foreign::Foreign::Drawing, "", 1, file.to_vec());
        let taken = fenlo_formats::foreign::take_drawing(&handed.expect("read once, read again"));
        assert_eq!(taken.expect("ours"), drawing);
    }
});
