//! A DXF file gone through before it is parsed: what is of no use is taken out and counted, so that nothing
//! in it can trip the parser; which layers are off; in which letters it is written.

use encoding_rs::{
    BIG5, EUC_KR, Encoding, GBK, SHIFT_JIS, UTF_8, WINDOWS_874, WINDOWS_1250, WINDOWS_1251, WINDOWS_1252,
    WINDOWS_1253, WINDOWS_1254, WINDOWS_1255, WINDOWS_1256, WINDOWS_1257, WINDOWS_1258,
};
use std::collections::BTreeMap;

/// What is parsed; everything else is counted.
const KNOWN: [&[u8]; 15] = [
    b"LINE",
    b"LWPOLYLINE",
    b"POLYLINE",
    b"VERTEX",
    b"SEQEND",
    b"ARC",
    b"CIRCLE",
    b"ELLIPSE",
    b"SPLINE",
    b"TEXT",
    b"MTEXT",
    b"POINT",
    b"INSERT",
    b"BLOCK",
    b"ENDBLK",
];
/// What is said of things that are left out.
const WORDS: [(&[u8], &str); 26] = [
    (b"HATCH", "hatches"),
    (b"MPOLYGON", "hatches"),
    (b"DIMENSION", "dimensions"),
    (b"ARC_DIMENSION", "dimensions"),
    (b"LARGE_RADIAL_DIMENSION", "dimensions"),
    (b"LEADER", "leaders"),
    (b"MULTILEADER", "leaders with words"),
    (b"MLINE", "multilines"),
    (b"MESH", "meshes"),
    (b"3DFACE", "filled faces"),
    (b"SOLID", "filled faces"),
    (b"TRACE", "filled faces"),
    (b"IMAGE", "pictures"),
    (b"WIPEOUT", "wipeouts"),
    (b"OLE2FRAME", "objects of other programs"),
    (b"OLEFRAME", "objects of other programs"),
    (b"RAY", "lines without an end"),
    (b"XLINE", "lines without an end"),
    (b"REGION", "solids"),
    (b"BODY", "solids"),
    (b"3DSOLID", "solids"),
    (b"SURFACE", "solids"),
    (b"ATTDEF", "attributes"),
    (b"ATTRIB", "attributes"),
    (b"ACAD_TABLE", "tables"),
    (b"TOLERANCE", "tolerances"),
];
/// Variables of the header that the parser may see.
const HEADER: [&[u8]; 2] = [b"$ACADVER", b"$INSUNITS"];

/// A file without what is of no use.
pub(super) struct Scanned {
    /// What is to be parsed.
    pub bytes: Vec<u8>,
    /// Line of the file for each pair of lines of `bytes`.
    lines: Vec<u32>,
    /// How texts are to be read.
    pub encoding: &'static Encoding,
    /// Layers that are not shown, and why.
    pub hidden: BTreeMap<String, &'static str>,
    /// What was taken out, with its layer, and how often.
    pub left_out: BTreeMap<(&'static str, String), usize>,
}

impl Scanned {
    /// The line of the file for a line of what was parsed.
    pub fn line(&self, parsed: usize) -> u32 {
        let pair = parsed.saturating_sub(1) / 2;
        self.lines.get(pair).or(self.lines.last()).copied().unwrap_or(1)
    }
}

/// One group code with its value.
#[derive(Clone, Copy)]
struct Pair<'a> {
    code: i32,
    value: &'a [u8],
    line: u32,
}

fn pairs(bytes: &[u8]) -> impl Iterator<Item = Pair<'_>> {
    let mut lines = bytes.split(|b| *b == b'\n').enumerate();
    std::iter::from_fn(move || {
        let (i, code) = lines.next()?;
        let (_, value) = lines.next()?;
        let code = std::str::from_utf8(code.trim_ascii()).ok()?;
        let code = if code.is_empty() { -1 } else { code.parse().ok()? };
        Some(Pair { code, value: value.strip_suffix(b"\r").unwrap_or(value), line: i as u32 + 1 })
    })
}

/// Goes through a file whose group codes are sound.
pub(super) fn scan(bytes: &[u8]) -> Scanned {
    let mut scan = Scan {
        out: Scanned {
            bytes: Vec::with_capacity(bytes.len() / 2),
            lines: Vec::new(),
            encoding: encoding_of(bytes),
            hidden: BTreeMap::new(),
            left_out: BTreeMap::new(),
        },
        section: Vec::new(),
        variable: false,
        keep: true,
        group: 0,
        record: Vec::new(),
    };
    for pair in pairs(bytes) {
        scan.pair(pair);
    }
    scan.end_record();
    scan.out
}

struct Scan<'a> {
    out: Scanned,
    section: Vec<u8>,
    /// The header's variable at hand is wanted.
    variable: bool,
    /// The record at hand is parsed.
    keep: bool,
    /// Depth within groups of other programs.
    group: u32,
    /// The record at hand: its pairs, from its code 0.
    record: Vec<Pair<'a>>,
}

impl<'a> Scan<'a> {
    fn pair(&mut self, pair: Pair<'a>) {
        if pair.code == 0 {
            self.end_record();
            let value = pair.value.trim_ascii();
            if value == b"SECTION" || value == b"ENDSEC" || value == b"EOF" {
                self.section = if value == b"SECTION" { b"?".to_vec() } else { Vec::new() };
                self.record.clear();
                if value == b"EOF" {
                    self.push(pair);
                }
                if value == b"ENDSEC" && self.keep {
                    self.push(pair);
                }
                return;
            }
            self.record.push(pair);
            return;
        }
        if self.section == b"?" {
            if pair.code == 2 {
                self.section = pair.value.trim_ascii().to_vec();
                self.keep = [b"HEADER".as_slice(), b"BLOCKS", b"ENTITIES"].contains(&self.section.as_slice());
                if self.keep {
                    let start = Pair { code: 0, value: b"SECTION", ..pair };
                    self.push(start);
                    self.push(pair);
                }
            }
            return;
        }
        if self.section == b"HEADER" {
            if pair.code == 9 {
                self.variable = HEADER.contains(&pair.value.trim_ascii());
            }
            if self.variable {
                self.push(pair);
            }
            return;
        }
        self.record.push(pair);
    }

    /// The record that has been gathered is kept, noted or counted.
    fn end_record(&mut self) {
        let record = std::mem::take(&mut self.record);
        let Some(first) = record.first() else { return };
        let kind = first.value.trim_ascii();
        match self.section.as_slice() {
            b"TABLES" if kind == b"LAYER" => self.layer(&record),
            b"BLOCKS" | b"ENTITIES" if KNOWN.contains(&kind) => {
                self.group = 0;
                for pair in record {
                    // What other programs hang on: groups in braces, and codes from 1000.
                    // Columns of words come behind the words, under the same codes.
                    if pair.code == 101 {
                        break;
                    }
                    if pair.code == 102 {
                        self.group = u32::from(pair.value.trim_ascii().starts_with(b"{"));
                    } else if self.group == 0 && pair.code < 1000 {
                        self.push(pair);
                    }
                }
            }
            b"BLOCKS" | b"ENTITIES" => {
                let on = record.iter().find(|p| p.code == 8).map_or(&b"0"[..], |p| p.value);
                let word = WORDS.iter().find(|w| w.0 == kind).map_or("other objects", |w| w.1);
                let layer = self.text(on);
                if self.out.left_out.len() < 200 || self.out.left_out.contains_key(&(word, layer.clone())) {
                    *self.out.left_out.entry((word, layer)).or_default() += 1;
                }
            }
            _ => {}
        }
    }

    /// A layer of the table: frozen by a bit of its flags, off by a colour below zero.
    fn layer(&mut self, record: &[Pair<'_>]) {
        let of = |code: i32| record.iter().find(|p| p.code == code).map(|p| p.value);
        let number = |code: i32| -> i32 {
            let text = of(code).and_then(|v| std::str::from_utf8(v.trim_ascii()).ok());
            text.and_then(|t| t.parse().ok()).unwrap_or(0)
        };
        let Some(name) = of(2) else { return };
        let name = self.text(name);
        if number(70) & 1 != 0 {
            self.out.hidden.insert(name, "frozen");
        } else if number(62) < 0 {
            self.out.hidden.insert(name, "off");
        }
    }

    fn text(&self, bytes: &[u8]) -> String {
        let text = self.out.encoding.decode_without_bom_handling(bytes).0;
        text.trim().chars().filter(|c| !c.is_control()).take(100).collect()
    }

    fn push(&mut self, pair: Pair<'_>) {
        self.out.lines.push(pair.line);
        self.out.bytes.extend(pair.code.to_string().into_bytes());
        self.out.bytes.push(b'\n');
        self.out.bytes.extend(pair.value);
        self.out.bytes.push(b'\n');
    }
}

/// From AC1021 (2007) on UTF-8, before by the code page of the header; where it names none by what reads.
fn encoding_of(bytes: &[u8]) -> &'static Encoding {
    let mut named: [Option<&[u8]>; 2] = [None; 2];
    let mut variable = None;
    for pair in pairs(bytes).take(4_000) {
        match pair.code {
            9 => {
                variable = [b"$ACADVER".as_slice(), b"$DWGCODEPAGE"]
                    .iter()
                    .position(|n| *n == pair.value.trim_ascii());
            }
            0 if pair.value.trim_ascii() == b"ENDSEC" => break,
            _ => {
                if let Some(at) = variable.take() {
                    named[at] = Some(pair.value.trim_ascii());
                }
            }
        }
    }
    if named[0].is_some_and(|v| v >= b"AC1021".as_slice()) {
        return UTF_8;
    }
    let page = named[1].map(|p| p.to_ascii_uppercase());
    let number = page.as_deref().and_then(|p| {
        let digits: Vec<u8> = p.iter().copied().filter(u8::is_ascii_digit).collect();
        String::from_utf8(digits).ok()?.parse::<u32>().ok()
    });
    match number {
        Some(1250) => WINDOWS_1250,
        Some(1251) => WINDOWS_1251,
        Some(1253) => WINDOWS_1253,
        Some(1254) => WINDOWS_1254,
        Some(1255) => WINDOWS_1255,
        Some(1256) => WINDOWS_1256,
        Some(1257) => WINDOWS_1257,
        Some(1258) => WINDOWS_1258,
        Some(874) => WINDOWS_874,
        Some(932) => SHIFT_JIS,
        Some(936) => GBK,
        Some(949) => EUC_KR,
        Some(950) => BIG5,
        Some(8) => UTF_8,
        // What says 1252, or nothing, and reads as UTF-8 is UTF-8: other letters hardly ever do.
        _ if std::str::from_utf8(bytes).is_ok() => UTF_8,
        _ => WINDOWS_1252,
    }
}
