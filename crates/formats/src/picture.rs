//! Pictures that lie beneath a drawing: PNG and JPEG, or one page of a PDF. Every picture is
//! unpacked within limits and packed anew as PNG or JPEG, so that nothing of the file but its
//! pixels is kept and served.

use hayro::hayro_syntax::LoadPdfError;
use image::error::{LimitError, LimitErrorKind};
use image::metadata::Orientation;
use image::{DynamicImage, ImageDecoder, ImageFormat, ImageReader, ImageResult, Limits};
use sha2::{Digest, Sha256};
use std::io::Cursor;

/// Pixels each way of what is kept.
const MOST_SIDE: u32 = 4_000;
/// Pixels each way of what is read.
const MOST_READ: u32 = 12_000;
/// Memory for unpacking: a bomb of a few kilobytes that unpacks to gigabytes ends here.
const MOST_MEMORY: u64 = 400_000_000;
/// Pixels of what is read: a sheet of A1 at 200 dots to the inch has half as many.
const MOST_PIXELS: u64 = 60_000_000;
/// Bytes of a file.
pub(crate) const MOST_BYTES: usize = 12_000_000;

/// A picture ready to be kept.
#[derive(Debug, Clone, PartialEq)]
pub struct Scan {
    /// Media type.
    pub kind: &'static str,
    /// The file.
    pub bytes: Vec<u8>,
    /// Named by what it holds.
    pub name: String,
    /// Pixels across.
    pub width: u32,
    /// Pixels down.
    pub height: u32,
    /// Metres of paper that a pixel covers; known of a page of a PDF.
    pub paper: Option<f64>,
}

/// Reads a PNG, a JPEG, or a page (from 1) of a PDF.
///
/// # Errors
/// What is wrong with the file, in words.
pub fn read_picture(bytes: Vec<u8>, page: usize) -> Result<Scan, String> {
    if bytes.len() > MOST_BYTES {
        return Err(format!(
            "The file has {} MB; at most {} MB are read",
            bytes.len() / 1_000_000,
            MOST_BYTES / 1_000_000
        ));
    }
    let photo = bytes.starts_with(&[0xff, 0xd8]);
    let (picture, paper) = if bytes.starts_with(b"%PDF") {
        let (page, paper) = pdf_page(bytes, page)?;
        (page, Some(paper))
    } else {
        (unpack(&bytes, photo)?, None)
    };
    let picture = if picture.width().max(picture.height()) > MOST_SIDE {
        picture.thumbnail(MOST_SIDE, MOST_SIDE)
    } else {
        picture
    };
    let (kind, format) =
        if photo { ("image/jpeg", ImageFormat::Jpeg) } else { ("image/png", ImageFormat::Png) };
    let flat =
        if photo { DynamicImage::from(picture.to_rgb8()) } else { DynamicImage::from(picture.to_rgba8()) };
    let mut out = Cursor::new(Vec::new());
    flat.write_to(&mut out, format).map_err(|e| format!("The picture cannot be saved: {e}"))?;
    let bytes = out.into_inner();
    let name: String = Sha256::digest(&bytes).iter().take(16).map(|b| format!("{b:02x}")).collect();
    Ok(Scan { kind, name, width: flat.width(), height: flat.height(), bytes, paper })
}

fn unpack(bytes: &[u8], photo: bool) -> Result<DynamicImage, String> {
    let format = if photo {
        ImageFormat::Jpeg
    } else if bytes.starts_with(b"\x89PNG") {
        ImageFormat::Png
    } else {
        return Err("The file is no PNG, JPEG or PDF".into());
    };
    let size = ImageReader::with_format(Cursor::new(bytes), format).into_dimensions();
    if let Ok((w, h)) = size
        && u64::from(w) * u64::from(h) > MOST_PIXELS
    {
        let most = MOST_PIXELS / 1_000_000;
        return Err(format!(
            "The picture has {w} by {h} pixels; at most {most} million are read. Make it smaller first"
        ));
    }
    let mut reader = ImageReader::with_format(Cursor::new(bytes), format);
    let mut limits = Limits::default();
    limits.max_image_width = Some(MOST_READ);
    limits.max_image_height = Some(MOST_READ);
    limits.max_alloc = Some(MOST_MEMORY);
    reader.limits(limits);
    if photo && !is_whole_jpeg(bytes) {
        return Err("The picture file is incomplete. Copy it again".into());
    }
    reader.into_decoder().and_then(upright).map_err(|e| match e {
        image::ImageError::Limits(_) => {
            format!(
                "The picture is larger than {MOST_READ} by {MOST_READ} pixels, or takes more than {} MB \
                    unpacked. Make it smaller first",
                MOST_MEMORY / 1_000_000
            )
        }
        image::ImageError::IoError(e) if e.kind() == std::io::ErrorKind::UnexpectedEof => {
            "The picture file is incomplete. Copy it again".into()
        }
        other => format!("The picture cannot be unpacked: {other}"),
    })
}

/// Unpacked, and turned or mirrored as the camera noted it (EXIF, CIPA DC-008, orientation 1 to 8).
fn upright(mut decoder: impl ImageDecoder) -> ImageResult<DynamicImage> {
    if decoder.total_bytes() > MOST_MEMORY {
        let kind = LimitErrorKind::InsufficientMemory;
        return Err(image::ImageError::Limits(LimitError::from_kind(kind)));
    }
    // A note that does not read turns nothing.
    let turn = decoder.orientation().unwrap_or(Orientation::NoTransforms);
    let mut picture = DynamicImage::from_decoder(decoder)?;
    picture.apply_orientation(turn);
    Ok(picture)
}

/// Whether a JPEG has the mark of its end behind its first scan. What reads it fills a missing rest with
/// grey; a preview within its head has such a mark too.
fn is_whole_jpeg(bytes: &[u8]) -> bool {
    let mut at = 2;
    while let Some([0xff, kind, high, low]) = bytes.get(at..at + 4) {
        let length = usize::from(*high) << 8 | usize::from(*low);
        if *kind == 0xda {
            return bytes[at + 2..].windows(2).any(|w| w == [0xff, 0xd9]);
        }
        // Fill bytes before a mark.
        at += if *kind == 0xff { 1 } else { 2 + length };
    }
    // No scan at all: what reads it says so.
    true
}

/// A page drawn at about 150 dots to the inch, and the metres of paper that a pixel covers.
fn pdf_page(bytes: Vec<u8>, page: usize) -> Result<(DynamicImage, f64), String> {
    // The file is anybody's: whatever trips the drawing of it is a fault of the file.
    let drawn = std::panic::catch_unwind(move || {
        let pdf = hayro::hayro_syntax::Pdf::new(bytes).map_err(|e| match e {
            LoadPdfError::Decryption(_) => {
                "The PDF is locked with a password: save it without one first".to_owned()
            }
            LoadPdfError::Invalid => "The PDF cannot be read".to_owned(),
        })?;
        let pages = pdf.pages();
        let page = page.checked_sub(1).and_then(|i| pages.get(i)).ok_or_else(|| match pages.len() {
            1 => "The PDF has 1 page. Choose page 1".to_owned(),
            n => format!("The PDF has {n} pages. Choose a page from 1 to {n}"),
        })?;
        let (w, h) = page.render_dimensions();
        if !(w > 0.0 && h > 0.0) {
            return Err("The page has no size".to_owned());
        }
        let scale = (150.0 / 72.0_f32).min(MOST_SIDE as f32 / w.max(h));
        let paper = hayro::PixmapSettings {
            x_scale: scale,
            y_scale: scale,
            bg_color: hayro::vello_cpu::color::palette::css::WHITE,
        };
        let drawn = hayro::render(
            page,
            &hayro::RenderCache::new(),
            &hayro::hayro_interpret::InterpreterSettings::default(),
            &hayro::RenderSettings::default(),
            &paper,
        );
        // On white paper nothing is transparent: premultiplied and plain colours are the same.
        let pixels = image::RgbaImage::from_raw(
            u32::from(drawn.width()),
            u32::from(drawn.height()),
            drawn.data_as_u8_slice().to_vec(),
        );
        let paper = 0.0254 / 72.0 / f64::from(scale);
        pixels.map(|p| (DynamicImage::from(p), paper)).ok_or_else(|| "The page cannot be drawn".to_owned())
    });
    drawn.unwrap_or_else(|_| Err("The PDF cannot be drawn".into()))
}
