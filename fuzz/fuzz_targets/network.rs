#![no_main]

use libfuzzer_sys::fuzz_target;

fuzz_target!(|file: &[u8]| {
    if let Ok(network) = fenlo_formats::read_network(file) {
        let _ = fenlo_core::network::solve(&network);
        let written = fenlo_formats::write_network(&network);
        assert!(fenlo_formats::read_network(written.as_bytes()).is_ok(), "what is written is read");
    }
});
