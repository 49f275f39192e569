#![no_main]

use libfuzzer_sys::fuzz_target;

fuzz_target!(|file: &[u8]| {
    if let Ok(job) = fenlo_formats::read_job(file) {
        let written = fenlo_formats::write_job(job.plan());
        let again = fenlo_formats::read_job(written.as_bytes()).expect("what is written is read");
        assert_eq!(again.plan(), job.plan());
        // Whatever is taken can be assessed.
        let _ = fenlo_core::assess::assess(&job);
    }
});
