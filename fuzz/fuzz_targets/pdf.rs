#![no_main]

use libfuzzer_sys::fuzz_target;

fuzz_target!(init: {
    // Panics within the parsing library are caught by the reader, and are faults of the file.
    std::panic::set_hook(Box::new(|_| ()));
}, |file: &[u8]| {
    let mut pdf = b"%PDF".to_vec();
    pdf.extend_from_slice(file);
    let _ = fenlo_formats::picture::read_picture(pdf, 1);
});
