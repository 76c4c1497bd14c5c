//! Pictures as they come from phones: what they are by their first bytes, what the camera told, and
//! what is kept of them.
//!
//! A picture is read by its content and never by its name. What the camera told of the place, of
//! the phone and of its owner is taken out before anything is kept; how it was held and when it was
//! taken stay. What would take much memory or time to open is refused before it is opened.

use crate::error::Problem;
use axum::http::StatusCode;
use image::metadata::Orientation;
use image::{DynamicImage, ImageFormat, ImageReader, Limits};
use img_parts::jpeg::Jpeg;
use img_parts::png::Png;
use img_parts::{Bytes, ImageEXIF};
use jiff::Timestamp;
use jiff::civil::DateTime;
use jiff::tz::TimeZone;
use std::io::Cursor;

/// Longest side, pixels.
const MOST_SIDE: u32 = 10_000;
/// Most pixels: while it is opened, up to nine bytes of each are in memory (a JPEG that comes in
/// several passes).
const MOST_PIXELS: u64 = 25_000_000;
/// Most memory for opening one, bytes.
const MOST_MEMORY: u64 = 160 << 20;

/// A picture, looked through.
pub(crate) struct Incoming {
    /// `image/jpeg` or `image/png`.
    pub media: &'static str,
    /// Without what the camera told.
    pub bytes: Vec<u8>,
    /// As the camera held it, 1 to 8.
    pub orientation: u8,
    /// Pixels in a row, turned upright.
    pub width: u32,
    /// Rows, turned upright.
    pub height: u32,
    /// When the camera says that it was taken, by the farm's clock.
    pub taken: Option<Timestamp>,
}

fn refused(detail: &str) -> Problem {
    Problem::new(
        StatusCode::UNPROCESSABLE_ENTITY,
        "not_a_picture",
        "That picture cannot be taken",
        detail,
    )
}

fn kind(bytes: &[u8]) -> Result<ImageFormat, Problem> {
    match image::guess_format(bytes) {
        Ok(format @ (ImageFormat::Jpeg | ImageFormat::Png)) => Ok(format),
        _ => Err(refused(
            "It is neither a JPEG nor a PNG by its content. Nothing was kept.",
        )),
    }
}

fn reader(bytes: &[u8], format: ImageFormat) -> ImageReader<Cursor<&[u8]>> {
    let mut limits = Limits::default();
    (
        limits.max_image_width,
        limits.max_image_height,
        limits.max_alloc,
    ) = (Some(MOST_SIDE), Some(MOST_SIDE), Some(MOST_MEMORY));
    let mut reader = ImageReader::with_format(Cursor::new(bytes), format);
    reader.limits(limits);
    reader
}

/// The sides by the head alone; what is too large is not opened.
fn sides(bytes: &[u8], format: ImageFormat) -> Result<(u32, u32), Problem> {
    let sides = reader(bytes, format).into_dimensions();
    let (width, height) =
        sides.map_err(|_| refused("It is broken at its beginning. Nothing was kept."))?;
    if width > MOST_SIDE || height > MOST_SIDE || u64::from(width) * u64::from(height) > MOST_PIXELS
    {
        let most = MOST_PIXELS / 1_000_000;
        return Err(refused(&format!(
            "It has {width} by {height} pixels; at most {most} million are taken. Take it with \
             fewer."
        )));
    }
    Ok((width, height))
}

/// What the camera told of how it was held and when: the rest is not looked at.
fn camera(exif: Option<Bytes>, zone: &TimeZone) -> (u8, Option<Timestamp>) {
    let parsed = exif.and_then(|raw| exif::Reader::new().read_raw(raw.to_vec()).ok());
    let Some(parsed) = parsed else {
        return (1, None);
    };
    let field = |tag| parsed.get_field(tag, exif::In::PRIMARY);
    let held = field(exif::Tag::Orientation)
        .and_then(|f| f.value.get_uint(0))
        .and_then(|v| u8::try_from(v).ok());
    let taken = field(exif::Tag::DateTimeOriginal).and_then(|f| match &f.value {
        exif::Value::Ascii(texts) => exif::DateTime::from_ascii(texts.first()?).ok(),
        _ => None,
    });
    let taken = taken.and_then(|t| {
        let [month, day, hour, minute, second] =
            [t.month, t.day, t.hour, t.minute, t.second].map(|v| i8::try_from(v).unwrap_or(-1));
        let at = DateTime::new(
            i16::try_from(t.year).ok()?,
            month,
            day,
            hour,
            minute,
            second,
            0,
        )
        .ok()?;
        Some(at.to_zoned(zone.clone()).ok()?.timestamp())
    });
    (held.filter(|o| (1..=8).contains(o)).unwrap_or(1), taken)
}

/// How the camera was held, and nothing else of what it told: without it a browser would show the
/// picture lying down.
fn held_alone(orientation: u8) -> Option<Bytes> {
    let field = exif::Field {
        tag: exif::Tag::Orientation,
        ifd_num: exif::In::PRIMARY,
        value: exif::Value::Short(vec![orientation.into()]),
    };
    let (mut writer, mut raw) = (exif::experimental::Writer::new(), Cursor::new(Vec::new()));
    writer.push_field(&field);
    (orientation > 1 && writer.write(&mut raw, false).is_ok())
        .then(|| Bytes::from(raw.into_inner()))
}

/// Segments of a JPEG that are kept: what is needed to show it. Comments and all that programs and
/// cameras add are not.
fn is_needed(marker: u8) -> bool {
    // APP0 (JFIF), APP2 (colour profile), APP14 (colour transform).
    !(0xe0..=0xef).contains(&marker) && marker != 0xfe || [0xe0, 0xe2, 0xee].contains(&marker)
}

/// Length of a JPEG to the end of its picture: what was hung on behind it is none of it. None where
/// it does not end.
fn length(bytes: &[u8]) -> Option<usize> {
    let mut at = 2;
    loop {
        // Fill bytes may stand before a marker.
        while *bytes.get(at)? == 0xff && *bytes.get(at + 1)? == 0xff {
            at += 1;
        }
        let (start, marker) = (*bytes.get(at)?, *bytes.get(at + 1)?);
        if start != 0xff {
            return None;
        }
        if marker == 0xd9 {
            return Some(at + 2);
        }
        at += 2 + usize::from(u16::from_be_bytes([
            *bytes.get(at + 2)?,
            *bytes.get(at + 3)?,
        ]));
        if marker == 0xda {
            // Coded data runs to the next marker; a stuffed 0 and the restart markers belong to it.
            while *bytes.get(at)? != 0xff || matches!(*bytes.get(at + 1)?, 0 | 0xd0..=0xd7) {
                at += 1;
            }
        }
    }
}

/// Chunks of a PNG that are kept.
const NEEDED: [[u8; 4]; 9] = [
    *b"IHDR", *b"PLTE", *b"tRNS", *b"IDAT", *b"IEND", *b"gAMA", *b"cHRM", *b"sRGB", *b"iCCP",
];

/// Looks through a picture that came in.
///
/// # Errors
/// 422 `not_a_picture` for what is none, is broken, or is too large to open.
pub(crate) fn look_through(bytes: Vec<u8>, zone: &TimeZone) -> Result<Incoming, Problem> {
    let format = kind(&bytes)?;
    let (width, height) = sides(&bytes, format)?;
    let broken = || refused("It is broken, or was cut short. Nothing was kept.");
    let (media, kept, (orientation, taken)) = match format {
        ImageFormat::Png => {
            let mut png = Png::from_bytes(Bytes::from(bytes)).map_err(|_| broken())?;
            let told = camera(png.exif(), zone);
            png.chunks_mut()
                .retain(|chunk| NEEDED.contains(&chunk.kind()));
            png.set_exif(held_alone(told.0));
            ("image/png", png.encoder().bytes(), told)
        }
        _ => {
            let mut bytes = bytes;
            bytes.truncate(length(&bytes).ok_or_else(broken)?);
            let mut jpeg = Jpeg::from_bytes(Bytes::from(bytes)).map_err(|_| broken())?;
            let told = camera(jpeg.exif(), zone);
            jpeg.segments_mut()
                .retain(|segment| is_needed(segment.marker()));
            jpeg.set_exif(held_alone(told.0));
            ("image/jpeg", jpeg.encoder().bytes(), told)
        }
    };
    // What cannot be opened now could not be shown later.
    reader(&kept, format).decode().map_err(|_| broken())?;
    let (width, height) = if orientation >= 5 {
        (height, width)
    } else {
        (width, height)
    };
    Ok(Incoming {
        media,
        bytes: kept.to_vec(),
        orientation,
        width,
        height,
        taken,
    })
}

/// Opens a kept picture, turned upright.
///
/// # Errors
/// 422 `not_a_picture` where it was changed on the disk meanwhile.
pub(crate) fn open(bytes: &[u8], orientation: u8) -> Result<DynamicImage, Problem> {
    let format = kind(bytes)?;
    sides(bytes, format)?;
    let mut opened = reader(bytes, format)
        .decode()
        .map_err(|_| refused("The kept picture is broken."))?;
    if let Some(held) = Orientation::from_exif(orientation) {
        opened.apply_orientation(held);
    }
    Ok(opened)
}
