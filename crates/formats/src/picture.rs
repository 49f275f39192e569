//! Pictures that lie beneath a drawing: PNG and JPEG, or one page of a PDF. Every picture is
//! unpacked within limits and packed anew as PNG or JPEG, so that nothing of the file but its
//! pixels is kept and served.

use image::{DynamicImage, ImageFormat, ImageReader, Limits};
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
#[derive(Debug, Clone, PartialEq, Eq)]
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
    let picture = if bytes.starts_with(b"%PDF") {
        pdf_page(bytes, page)?
    } else {
        unpack(&bytes, photo)?
    };
    let picture = if picture.width().max(picture.height()) > MOST_SIDE {
        picture.thumbnail(MOST_SIDE, MOST_SIDE)
    } else {
        picture
    };
    let (kind, format) = if photo {
        ("image/jpeg", ImageFormat::Jpeg)
    } else {
        ("image/png", ImageFormat::Png)
    };
    let flat = if photo {
        DynamicImage::from(picture.to_rgb8())
    } else {
        DynamicImage::from(picture.to_rgba8())
    };
    let mut out = Cursor::new(Vec::new());
    flat.write_to(&mut out, format)
        .map_err(|e| format!("The picture can't be kept: {e}"))?;
    let bytes = out.into_inner();
    let name: String = Sha256::digest(&bytes)
        .iter()
        .take(16)
        .map(|b| format!("{b:02x}"))
        .collect();
    Ok(Scan {
        kind,
        name,
        width: flat.width(),
        height: flat.height(),
        bytes,
    })
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
            "The picture has {w} by {h} pixels; at most {most} million are read: make it smaller first"
        ));
    }
    let mut reader = ImageReader::with_format(Cursor::new(bytes), format);
    let mut limits = Limits::default();
    limits.max_image_width = Some(MOST_READ);
    limits.max_image_height = Some(MOST_READ);
    limits.max_alloc = Some(MOST_MEMORY);
    reader.limits(limits);
    reader.decode().map_err(|e| match e {
        image::ImageError::Limits(_) => {
            format!(
                "The picture is larger than {MOST_READ} by {MOST_READ} pixels, or takes more than {} MB unpacked: \
                 make it smaller first",
                MOST_MEMORY / 1_000_000
            )
        }
        other => format!("The picture can't be unpacked: {other}"),
    })
}

/// A page drawn at about 150 dots to the inch.
fn pdf_page(bytes: Vec<u8>, page: usize) -> Result<DynamicImage, String> {
    // The file is anybody's: whatever trips the drawing of it is a fault of the file.
    let drawn = std::panic::catch_unwind(move || {
        let pdf = hayro::hayro_syntax::Pdf::new(bytes).map_err(|_| "The PDF can't be read".to_owned())?;
        let pages = pdf.pages();
        let page = page
            .checked_sub(1)
            .and_then(|i| pages.get(i))
            .ok_or_else(|| format!("The PDF has {} pages: pick one of them", pages.len()))?;
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
        pixels
            .map(DynamicImage::from)
            .ok_or_else(|| "The page can't be drawn".to_owned())
    });
    drawn.unwrap_or_else(|_| Err("The PDF can't be drawn".into()))
}
