#![no_main]

use libfuzzer_sys::fuzz_target;

fuzz_target!(|file: &[u8]| {
    if let Ok(book) = fenlo_formats::read_prices(file) {
        let written = fenlo_formats::write_prices(&book);
        let again = fenlo_formats::read_prices(written.as_bytes()).expect("what is written is read");
        assert_eq!(again.prices.len(), book.prices.len());
    }
});
