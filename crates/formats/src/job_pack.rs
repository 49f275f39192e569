//! A job file with the picture beneath it: a ZIP of `job.json` and `pictures/NAME.png` or `.jpg`.

use crate::picture::{MOST_BYTES, Scan, read_picture};
use fenlo_core::plan::Plan;
use std::io::{Cursor, Read, Write};
use zip::write::SimpleFileOptions;
use zip::{CompressionMethod, ZipArchive, ZipWriter};

/// Bytes of a job file.
pub(crate) const MOST_JOB: usize = 5_000_000;
/// Bytes of one with its picture.
pub(crate) const MOST_PACKED: usize = MOST_JOB + MOST_BYTES;
/// Files in it that are looked at.
const MOST_ENTRIES: usize = 100;

/// A job file and the picture that came with it, as they were packed.
#[derive(Debug)]
pub(crate) struct Packed {
    pub job: Vec<u8>,
    pictures: Vec<(String, Vec<u8>)>,
    left: Vec<String>,
}

/// A job file, or a ZIP with one.
///
/// # Errors
/// It is no sound ZIP, holds no job, or too much.
pub(crate) fn unpack_job(bytes: Vec<u8>) -> Result<Packed, String> {
    if !bytes.starts_with(b"PK\x03\x04") {
        if bytes.len() > MOST_JOB {
            return Err(format!("a job file has at most {} MB", MOST_JOB / 1_000_000));
        }
        return Ok(Packed { job: bytes, pictures: Vec::new(), left: Vec::new() });
    }
    let mut zip = ZipArchive::new(Cursor::new(bytes)).map_err(|e| format!("the ZIP cannot be read: {e}"))?;
    if zip.len() > MOST_ENTRIES {
        return Err(format!("the ZIP has {} files; a job with its picture has two", zip.len()));
    }
    let (mut job, mut pictures, mut left) = (None, Vec::new(), Vec::new());
    for i in 0..zip.len() {
        let file = zip.by_index(i).map_err(|e| format!("the ZIP cannot be read: {e}"))?;
        let name = file.name().map_err(|e| format!("the ZIP cannot be read: {e}"))?.into_owned();
        let is_picture = name.starts_with("pictures/");
        if !file.is_file() {
            continue;
        }
        if name != "job.json" && !is_picture {
            left.push(format!(
                "‘{}’ does not belong to a job file",
                name.chars().take(60).collect::<String>()
            ));
            continue;
        }
        let most = if is_picture { MOST_BYTES } else { MOST_JOB };
        // What it says of its size need not be so: what it unpacks to is counted.
        let mut out = Vec::new();
        let read = file.take(most as u64 + 1).read_to_end(&mut out);
        read.map_err(|e| format!("‘{name}’ in the ZIP cannot be unpacked: {e}"))?;
        if out.len() > most {
            return Err(format!("‘{name}’ unpacks to more than {} MB", most / 1_000_000));
        }
        if is_picture {
            let stem = name.trim_start_matches("pictures/");
            let stem = stem.rsplit_once('.').map_or(stem, |s| s.0);
            pictures.push((stem.to_owned(), out));
        } else {
            job = Some(out);
        }
    }
    Ok(Packed { job: job.ok_or("the ZIP has no job.json")?, pictures, left })
}

impl Packed {
    /// The picture that lies beneath a job, read anew; without it nothing lies beneath, and that is said.
    pub(crate) fn picture_for(self, plan: &mut Plan) -> (Option<Scan>, Vec<String>) {
        let mut left = self.left;
        let Some(underlay) = &mut plan.site.underlay else {
            return (None, left);
        };
        let found = self.pictures.into_iter().find(|p| p.0 == underlay.picture);
        let read = found.map(|(_, bytes)| read_picture(bytes, 1));
        match read {
            Some(Ok(scan)) if (scan.width, scan.height) == (underlay.width, underlay.height) => {
                underlay.picture.clone_from(&scan.name);
                return (Some(scan), left);
            }
            Some(Ok(_)) => left.push("the background picture is not the size that the job says".into()),
            Some(Err(why)) => left.push(format!("the background picture: {}", why.to_lowercase())),
            None => left.push(
                "the background picture: a JSON file has none. Use the ZIP job file to include it".into(),
            ),
        }
        plan.site.underlay = None;
        (None, left)
    }
}

/// A job with the picture beneath it as a ZIP.
///
/// # Errors
/// It can't be packed: memory.
pub fn pack_job(job: &str, picture: Option<(&str, &str, &[u8])>) -> Result<Vec<u8>, String> {
    let mut zip = ZipWriter::new(Cursor::new(Vec::new()));
    let text = SimpleFileOptions::default().compression_method(CompressionMethod::Deflated);
    let told = |e: zip::result::ZipError| e.to_string();
    zip.start_file("job.json", text).map_err(told)?;
    zip.write_all(job.as_bytes()).map_err(|e| e.to_string())?;
    if let Some((name, kind, bytes)) = picture {
        let end = if kind == "image/jpeg" { "jpg" } else { "png" };
        // Pictures are packed already.
        let stored = SimpleFileOptions::default().compression_method(CompressionMethod::Stored);
        zip.start_file(format!("pictures/{name}.{end}"), stored).map_err(told)?;
        zip.write_all(bytes).map_err(|e| e.to_string())?;
    }
    Ok(zip.finish().map_err(told)?.into_inner())
}
