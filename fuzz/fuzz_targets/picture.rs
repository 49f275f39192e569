#![no_main]

use libfuzzer_sys::fuzz_target;

fuzz_target!(|file: &[u8]| {
    if !file.starts_with(b"%PDF")
        && let Ok(scan) = fenlo_formats::picture::read_picture(file.to_vec(), 1)
    {
        assert!(scan.width <= 4_000 && scan.height <= 4_000);
    }
});
