//! Files of others, read where they can hold nothing: a process of its own, bounded in memory and time, reads
//! the file and hands over what it found in a small format of ours. What reads the answer meets no foreign
//! byte.
//!
//! | kind | handed over |
//! |---|---|
//! | drawing | [`Drawing`] as JSON |
//! | picture | a line of JSON, then the picture packed anew |
//! | job | a line of JSON, the job file as we write it, then the picture that came with it |
//! | prices | [`PriceBook`] as JSON |
//! | chart, climate | [`Sifted`] as JSON |
//! | refused | [`Told`] as a JSON list |

use crate::drawing::{Drawing, read_dxf, read_geojson};
use crate::job_pack::unpack_job;
use crate::picture::{Scan, read_picture};
use crate::{ChartFault, read_chart, read_climate, read_job, read_prices, write_job};
use fenlo_core::catalogue::Kind;
use fenlo_core::pricing::PriceBook;
use serde::{Deserialize, Serialize};

/// What a foreign file is taken for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum Foreign {
    /// DXF or GeoJSON.
    Drawing,
    /// PNG, JPEG or a page of a PDF.
    Picture,
    /// A job file.
    Job,
    /// A price book, CSV or XLSX.
    Prices,
    /// A chart of nozzles, CSV; it is called by the word of their kind, or nothing.
    Chart,
    /// A climate by months or days, CSV; it is called by the latitude in degrees, or nothing.
    Climate,
}

/// What reading may take.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Limits {
    /// Address space of the process, bytes.
    pub memory: u64,
    /// Seconds, by the clock.
    pub seconds: u64,
    /// Bytes of the file.
    pub file: usize,
}

/// What is handed over at most, bytes.
pub const MOST_HANDED: usize = 32_000_000;

impl Foreign {
    /// All kinds.
    pub const ALL: [Self; 6] =
        [Self::Drawing, Self::Picture, Self::Job, Self::Prices, Self::Chart, Self::Climate];

    /// Its word on the command line.
    pub fn word(self) -> &'static str {
        match self {
            Self::Drawing => "drawing",
            Self::Picture => "picture",
            Self::Job => "job",
            Self::Prices => "prices",
            Self::Chart => "chart",
            Self::Climate => "climate",
        }
    }

    /// From its word.
    pub fn parse(word: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|k| k.word() == word)
    }

    /// What its reading may take. The largest sound file of each kind takes about half of it.
    pub fn limits(self) -> Limits {
        let (memory, seconds, file) = match self {
            Self::Drawing => (900, 10, crate::drawing::MOST_DRAWING),
            Self::Picture => (700, 10, crate::picture::MOST_BYTES),
            Self::Job => (800, 12, crate::job_pack::MOST_PACKED),
            Self::Prices => (900, 15, crate::MOST_PRICES),
            // Over its own limit it is told by the line.
            Self::Chart => (300, 5, 2 * crate::MOST_CHART),
            Self::Climate => (300, 5, 2 * crate::MOST_CLIMATE),
        };
        Limits { memory: memory * 1_000_000, seconds, file }
    }
}

/// What is wrong with a file, and where in it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Told {
    /// `line 7`, `groups[0].spacing`, `file`.
    pub at: String,
    /// What is wrong and what is expected.
    pub message: String,
}

impl From<Told> for ChartFault {
    /// Of a table the first line stands for the whole.
    fn from(told: Told) -> Self {
        Self { line: told.at.trim_start_matches("line ").parse().unwrap_or(1), message: told.message }
    }
}

impl Told {
    /// Of the file as a whole.
    pub fn of_file(message: impl Into<String>) -> Vec<Self> {
        vec![Self { at: "file".into(), message: message.into() }]
    }
}

/// What of a table could be used, and which lines could not.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Sifted<T> {
    /// What could be used.
    pub found: T,
    /// What is wrong with the rest, by line.
    pub faults: Vec<ChartFault>,
}

#[derive(Serialize, Deserialize)]
struct ScanHead {
    photo: bool,
    name: String,
    width: u32,
    height: u32,
    #[serde(default)]
    paper: Option<f64>,
}

impl ScanHead {
    fn of(scan: &Scan) -> Self {
        Self {
            photo: scan.kind == "image/jpeg",
            name: scan.name.clone(),
            width: scan.width,
            height: scan.height,
            paper: scan.paper,
        }
    }

    fn with(self, bytes: Vec<u8>) -> Scan {
        Scan {
            kind: if self.photo { "image/jpeg" } else { "image/png" },
            bytes,
            name: self.name,
            width: self.width,
            height: self.height,
            paper: self.paper,
        }
    }
}

#[derive(Serialize, Deserialize)]
struct JobHead {
    /// Bytes of the job file.
    job: usize,
    picture: Option<ScanHead>,
    left: Vec<String>,
}

/// A job as it was handed over.
#[derive(Debug, Clone, PartialEq)]
pub struct HandedJob {
    /// The job file.
    pub job: Vec<u8>,
    /// The picture beneath it, where the file carried it.
    pub picture: Option<Scan>,
    /// What could not be brought, in words.
    pub left: Vec<String>,
}

/// Reads a foreign file and writes what is handed over. `name` is what the file was called, `page` (from 1)
/// the page of a PDF.
///
/// # Errors
/// What is wrong with the file.
pub fn read_foreign(kind: Foreign, name: &str, page: usize, bytes: Vec<u8>) -> Result<Vec<u8>, Vec<Told>> {
    let faults = |e: crate::ReadError| -> Vec<Told> {
        let each = e.0.into_iter().take(50);
        each.map(|f| Told { at: f.path, message: f.message }).collect()
    };
    let out = match kind {
        Foreign::Drawing => {
            let start = bytes.iter().find(|b| !b.is_ascii_whitespace());
            let drawing = if start == Some(&b'{') || name.to_lowercase().ends_with("json") {
                read_geojson(&bytes)
            } else {
                read_dxf(&bytes)
            };
            let drawing = drawing.map_err(faults)?;
            drop(bytes);
            serde_json::to_vec(&drawing).map_err(|e| Told::of_file(e.to_string()))?
        }
        Foreign::Picture => {
            let scan = read_picture(bytes, page).map_err(Told::of_file)?;
            let mut out = head_line(&ScanHead::of(&scan))?;
            out.extend(scan.bytes);
            out
        }
        Foreign::Job => {
            let packed = unpack_job(bytes).map_err(Told::of_file)?;
            let mut plan = read_job(&packed.job).map_err(faults)?.plan().clone();
            let (picture, left) = packed.picture_for(&mut plan);
            let job = write_job(&plan).into_bytes();
            let mut out =
                head_line(&JobHead { job: job.len(), picture: picture.as_ref().map(ScanHead::of), left })?;
            out.extend(job);
            out.extend(picture.map(|p| p.bytes).unwrap_or_default());
            out
        }
        Foreign::Prices => {
            let book = read_prices(&bytes).map_err(|all| {
                let told = |f: crate::ChartFault| Told { at: format!("line {}", f.line), message: f.message };
                all.into_iter().map(told).collect::<Vec<_>>()
            })?;
            serde_json::to_vec(&book).map_err(|e| Told::of_file(e.to_string()))?
        }
        Foreign::Chart => {
            let kind: Option<Kind> = serde_json::from_value(name.into()).ok();
            // Where they are to be kept they get names of their own.
            let (found, faults) = read_chart(&String::from_utf8_lossy(&bytes), kind, str::to_owned);
            sifted(found, faults)?
        }
        Foreign::Climate => {
            let latitude = name.parse().ok().filter(|l: &f64| l.is_finite());
            let (found, faults) = read_climate(&String::from_utf8_lossy(&bytes), latitude);
            sifted(found, faults)?
        }
    };
    if out.len() > MOST_HANDED {
        let most = MOST_HANDED / 1_000_000;
        return Err(Told::of_file(format!(
            "has more than {most} MB of data that can be used. Remove what you do not need"
        )));
    }
    Ok(out)
}

/// A drawing as it was handed over.
///
/// # Errors
/// It was not written by [`read_foreign`] of this version.
pub fn take_drawing(handed: &[u8]) -> Result<Drawing, String> {
    serde_json::from_slice(handed).map_err(|e| e.to_string())
}

fn sifted<T: Serialize>(found: T, faults: Vec<ChartFault>) -> Result<Vec<u8>, Vec<Told>> {
    serde_json::to_vec(&Sifted { found, faults }).map_err(|e| Told::of_file(e.to_string()))
}

fn head_line(head: &impl Serialize) -> Result<Vec<u8>, Vec<Told>> {
    let mut line = serde_json::to_vec(head).map_err(|e| Told::of_file(e.to_string()))?;
    line.push(b'\n');
    Ok(line)
}

/// The line at the head, and what follows it.
fn behind<T: serde::de::DeserializeOwned>(handed: Vec<u8>) -> Result<(T, Vec<u8>), String> {
    let end = handed.iter().position(|b| *b == b'\n').ok_or("no head")?;
    let head = serde_json::from_slice(&handed[..end]).map_err(|e| e.to_string())?;
    let mut bytes = handed;
    bytes.drain(..=end);
    Ok((head, bytes))
}

/// A picture as it was handed over.
///
/// # Errors
/// It was not written by [`read_foreign`] of this version.
pub fn take_scan(handed: Vec<u8>) -> Result<Scan, String> {
    let (head, bytes) = behind::<ScanHead>(handed)?;
    Ok(head.with(bytes))
}

/// A job as it was handed over, with the picture beneath it.
///
/// # Errors
/// It was not written by [`read_foreign`] of this version.
pub fn take_job(handed: Vec<u8>) -> Result<HandedJob, String> {
    let (head, mut job) = behind::<JobHead>(handed)?;
    if head.job > job.len() {
        return Err("it is not whole".into());
    }
    let rest = job.split_off(head.job);
    Ok(HandedJob { job, picture: head.picture.map(|p| p.with(rest)), left: head.left })
}

/// A price book as it was handed over.
///
/// # Errors
/// It was not written by [`read_foreign`] of this version.
pub fn take_prices(handed: &[u8]) -> Result<PriceBook, String> {
    serde_json::from_slice(handed).map_err(|e| e.to_string())
}

/// What a table of nozzles (each has its label for an id) or of a climate gave, as it was handed over.
///
/// # Errors
/// It was not written by [`read_foreign`] of this version.
pub fn take_sifted<T: serde::de::DeserializeOwned>(handed: &[u8]) -> Result<Sifted<T>, String> {
    serde_json::from_slice(handed).map_err(|e| e.to_string())
}

#[cfg(test)]
mod tests {
    use super::*;
    use fenlo_core::catalogue::OwnNozzle;
    use fenlo_core::climate::Climate;

    #[test]
    fn charts_and_climates_are_handed_over_with_their_faults_by_line() {
        let chart = "name,psi,arc,ft,gpm\nMill 12,30,180,12,1.30\nMill 15,30,180,lots,1.85\n";
        let handed = read_foreign(Foreign::Chart, "spray", 1, chart.into()).unwrap();
        let taken = take_sifted::<Vec<OwnNozzle>>(&handed).unwrap();
        let (found, faults) = read_chart(chart, Some(Kind::Spray), str::to_owned);
        assert_eq!((&taken.found, &taken.faults), (&found, &faults));
        assert_eq!((found.len(), found[0].kind, faults[0].line), (1, Kind::Spray, 3));
        let climate = "date,tmin C,tmax C\n2024-07-01,14,29\n2024-07-02,15,30\n";
        let handed = read_foreign(Foreign::Climate, "44.6", 1, climate.into()).unwrap();
        let taken = take_sifted::<Option<Climate>>(&handed).unwrap();
        assert_eq!((taken.found, taken.faults), read_climate(climate, Some(44.6)));
        // Without a latitude the temperatures give nothing, and that is told.
        let handed = read_foreign(Foreign::Climate, "", 1, climate.into()).unwrap();
        let taken = take_sifted::<Option<Climate>>(&handed).unwrap();
        assert!(taken.found.is_none() && !taken.faults.is_empty());
    }

    #[test]
    fn a_drawing_is_handed_over_to_the_same_bits() {
        let file = br#"{"type":"FeatureCollection","features":[{"type":"Feature","properties":{"layer":"lawn",
            "name":"Front"},"geometry":{"type":"Polygon","coordinates":[[[0,0],[0.1,0],[0.1,30.3],[0,0]],
            [[0.01,0.02],[0.03,0.02],[0.02,0.07],[0.01,0.02]]]}},{"type":"Feature","properties":{"layer":"spots"},
            "geometry":{"type":"Point","coordinates":[1,2,3.3]}}]}"#;
        let handed = read_foreign(Foreign::Drawing, "garden.geojson", 1, file.to_vec()).unwrap();
        let taken = take_drawing(&handed).unwrap();
        assert_eq!(taken, read_geojson(file).unwrap());
        assert_eq!(taken.layers["lawn"].closed[0].0.holes.len(), 1);
    }

    #[test]
    fn a_price_book_is_handed_over_to_the_cent_and_its_faults_by_line() {
        let file = b"number,supplier,price,currency\nA1,Mill,0.315,USD\n";
        let handed = read_foreign(Foreign::Prices, "", 1, file.to_vec()).unwrap();
        assert_eq!(take_prices(&handed).unwrap(), read_prices(file).unwrap());
        let bad = read_foreign(Foreign::Prices, "", 1, b"number,supplier,price\nA1,Mill,-3\n".to_vec());
        assert_eq!(bad.unwrap_err()[0].at, "line 2");
    }

    #[test]
    fn what_was_not_handed_over_by_us_is_refused() {
        assert!(take_drawing(b"  0\nSECTION").is_err());
        assert!(take_scan(b"no head at all".to_vec()).is_err());
        assert!(take_scan(b"{\"photo\":1}\nxx".to_vec()).is_err());
    }
}
