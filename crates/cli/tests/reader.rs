//! The reader of foreign files, as the server runs it: bounded, whatever it is given.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

use std::io::Write;
use std::process::{Command, Output, Stdio};
use std::time::{Duration, Instant};

fn read(kind: &str, name: &str, file: &[u8]) -> (Output, Duration) {
    let began = Instant::now();
    let mut reader = Command::new(env!("CARGO_BIN_EXE_fenlo"))
        .args(["reader", kind, "--name", name])
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .unwrap();
    // It may refuse before it has read everything.
    let _ = reader.stdin.take().unwrap().write_all(file);
    (reader.wait_with_output().unwrap(), began.elapsed())
}

/// Refused with words.
fn refused(kind: &str, name: &str, file: &[u8], words: &str) {
    let (out, _) = read(kind, name, file);
    assert_eq!(out.status.code(), Some(3), "{name}: {out:?}");
    let said = String::from_utf8(out.stdout).unwrap();
    assert!(said.contains(words), "{name}: {said}");
}

/// A text of a drawing.
fn text(of: &str, value: &str) -> Vec<u8> {
    let entity = format!("0\n{of}\n8\nnotes\n10\n1\n20\n2\n40\n1\n1\n{value}\n");
    format!("0\nSECTION\n2\nENTITIES\n{entity}0\nENDSEC\n0\nEOF\n").into_bytes()
}

#[test]
fn sound_files_are_handed_over() {
    let (out, _) = read("drawing", "garden.dxf", &text("TEXT", "Lawn"));
    assert!(out.status.success(), "{out:?}");
    let drawing = fenlo_formats::foreign::take_drawing(&out.stdout).unwrap();
    assert_eq!(drawing.layers["notes"].texts[0].1, "Lawn");
    let (out, _) = read("picture", "scan.png", include_bytes!("../../web/tests/scan.png"));
    let scan = fenlo_formats::foreign::take_scan(out.stdout).unwrap();
    assert!(scan.width > 0 && scan.bytes.starts_with(b"\x89PNG"));
    let job = std::fs::read(concat!(env!("CARGO_MANIFEST_DIR"), "/../../fixtures/corner-plot.json")).unwrap();
    let (out, _) = read("job", "", &job);
    let handed = fenlo_formats::foreign::take_job(out.stdout).unwrap();
    assert_eq!(
        fenlo_formats::read_job(&handed.job).unwrap().plan(),
        fenlo_formats::read_job(&job).unwrap().plan()
    );
}

#[test]
fn it_takes_no_addresses_that_its_bound_would_count() {
    let mut reader = Command::new(env!("CARGO_BIN_EXE_fenlo"))
        .args(["reader", "chart", "--name", "chart.csv"])
        .stdin(Stdio::piped())
        .stdout(Stdio::null())
        .spawn()
        .unwrap();
    let of =
        |what: &str| std::fs::read_to_string(format!("/proc/{}/{what}", reader.id())).unwrap_or_default();
    let began = Instant::now();
    // It waits for its file by then.
    while !of("limits").lines().any(|l| l.starts_with("Max address space") && l.contains("300000000")) {
        assert!(began.elapsed() < Duration::from_secs(20), "it never bound itself");
        std::thread::sleep(Duration::from_millis(5));
    }
    let status = of("status");
    let size = status.lines().find_map(|l| l.strip_prefix("VmSize:")).unwrap();
    let kb: u64 = size.trim().trim_end_matches(" kB").parse().unwrap();
    assert!(kb < 150_000, "{kb} kB of 300,000 are taken before a byte is read");
    drop(reader.stdin.take());
    reader.wait().unwrap();
}

#[test]
fn what_took_seconds_or_gigabytes_is_read_or_refused_at_once() {
    // A megabyte of one word: each was looked for from the beginning once.
    for (of, word) in [("TEXT", "THUMBNAILIMAGE"), ("MTEXT", "{\\fArial;Lawn}\\P"), ("MTEXT", "\\f")] {
        let file = text(of, &word.repeat(1_000_000 / word.len()));
        let (out, took) = read("drawing", "word.dxf", &file);
        assert!(out.status.success(), "{word}: {out:?}");
        assert!(took < Duration::from_secs(8), "{word} took {took:?}");
    }
    // The head of a picture of 144 million pixels.
    let mut png = b"\x89PNG\r\n\x1a\n\0\0\0\rIHDR\0\0\x2e\xe0\0\0\x2e\xe0\x08\x06\0\0\0".to_vec();
    png.extend(crc(&png[12..29]).to_be_bytes());
    png.extend(b"\0\0\0\0IDAT\x35\xaf\x06\x1e\0\0\0\0IEND\xae\x42\x60\x82");
    refused("picture", "big.png", &png, "at most 60 million are read");
    // Brackets in brackets, without an end.
    refused("job", "deep.json", format!("{{\"format\":{}", "[".repeat(1_000_000)).as_bytes(), "format");
    refused("drawing", "deep.geojson", format!("{{\"a\":{}", "[".repeat(1_000_000)).as_bytes(), "incomplete");
    refused("job", "large.json", &vec![b' '; 5_000_001], "at most 5 MB");
    refused("prices", "none.csv", b"nothing of it", "line 1");
    // A page tree twenty thousand deep.
    let mut pdf = b"%PDF-1.4\n1 0 obj\n<< /Type /Catalog /Pages 2 0 R >>\nendobj\n".to_vec();
    for n in 2..20_000 {
        let page = format!("{n} 0 obj\n<< /Type /Pages /Kids [{} 0 R] /Count 1 >>\nendobj\n", n + 1);
        pdf.extend(page.bytes());
    }
    pdf.extend(b"trailer\n<< /Root 1 0 R >>\n%%EOF\n");
    let (out, took) = read("picture", "deep.pdf", &pdf);
    assert!(!out.status.success() && took < Duration::from_secs(12), "{:?} {took:?}", out.status);
}

/// As PNG has it (ISO 3309).
fn crc(bytes: &[u8]) -> u32 {
    let mut sum = u32::MAX;
    for byte in bytes {
        sum ^= u32::from(*byte);
        for _ in 0..8 {
            sum = if sum & 1 == 1 { 0xedb8_8320 ^ (sum >> 1) } else { sum >> 1 };
        }
    }
    !sum
}
