//! Photos as they are kept: turned upright, no larger than anybody looks at, with a small one beside, and without what a phone
//! writes into them about places, times and itself.
//!
//! A photo is taken apart into its points and put together anew, so that nothing but the points gets in, whatever there was.

use crate::ground::error::{Result, StoreError};
use image::{
    DynamicImage, ImageDecoder, ImageFormat, ImageReader, Limits, codecs::jpeg::JpegEncoder, imageops::FilterType,
};
use std::io::Cursor;

/// The largest file that is taken, in bytes.
pub const LARGEST: usize = 24 << 20;

/// The longer side of a photo that is kept, in points: enough to see a crack, a tenth of what a phone takes.
const LONGER_SIDE: u32 = 2_048;

/// The longer side of the small one.
const SMALL_SIDE: u32 = 360;

/// The longest side of a photo that is looked at, and the most memory that it may take: a small file can hold a large picture.
const MOST_SIDE: u32 = 20_000;
const MOST_MEMORY: u64 = 512 << 20;

/// How well a photo is kept, of 100: more is not seen on a screen.
const QUALITY: u8 = 82;

const PAPER: &str = "application/pdf";

/// A file as it is kept.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Prepared {
    pub media_type: &'static str,
    pub bytes: Vec<u8>,
    /// Of a photo: a smaller one, and its width and height in points.
    pub small: Option<Vec<u8>>,
    pub size: Option<(u32, u32)>,
}

/// Makes of what somebody sent what is kept. What a client says of it is not asked: its bytes say what it is.
///
/// # Errors
/// [`StoreError::Invalid`] for `file`, where it is neither a photo nor a PDF, or too large.
pub fn prepare(bytes: Vec<u8>) -> Result<Prepared> {
    if bytes.len() > LARGEST {
        return Err(StoreError::invalid("file", format!("is larger than {} MB", LARGEST >> 20)));
    }
    match infer::get(&bytes).map(|kind| kind.mime_type()) {
        Some("image/jpeg") => photo(&bytes, ImageFormat::Jpeg),
        Some("image/png") => photo(&bytes, ImageFormat::Png),
        Some("image/webp") => photo(&bytes, ImageFormat::WebP),
        Some("image/gif") => photo(&bytes, ImageFormat::Gif),
        Some(PAPER) => Ok(Prepared { media_type: PAPER, bytes, small: None, size: None }),
        _ => Err(StoreError::invalid("file", "is no photo (JPEG, PNG, WebP, GIF) and no PDF")),
    }
}

fn broken(error: impl ToString) -> StoreError {
    StoreError::invalid("file", format!("can't be read as a picture: {}", error.to_string()))
}

fn photo(bytes: &[u8], format: ImageFormat) -> Result<Prepared> {
    let mut reader = ImageReader::with_format(Cursor::new(bytes), format);
    let mut limits = Limits::default();
    limits.max_image_width = Some(MOST_SIDE);
    limits.max_image_height = Some(MOST_SIDE);
    limits.max_alloc = Some(MOST_MEMORY);
    reader.limits(limits);
    let mut decoder = reader.into_decoder().map_err(broken)?;
    let upright = decoder.orientation().map_err(broken)?;
    let mut whole = DynamicImage::from_decoder(decoder).map_err(broken)?;
    whole.apply_orientation(upright);
    let whole = no_larger(whole, LONGER_SIDE, FilterType::Lanczos3);
    let small = no_larger(whole.clone(), SMALL_SIDE, FilterType::Triangle);
    let size = (whole.width(), whole.height());
    Ok(Prepared { media_type: "image/jpeg", bytes: jpeg(whole)?, small: Some(jpeg(small)?), size: Some(size) })
}

fn no_larger(image: DynamicImage, side: u32, filter: FilterType) -> DynamicImage {
    if image.width().max(image.height()) <= side { image } else { image.resize(side, side, filter) }
}

/// What shines through becomes white.
fn jpeg(image: DynamicImage) -> Result<Vec<u8>> {
    let points = if image.color().has_alpha() {
        let mut points = image.to_rgba8();
        for point in points.pixels_mut() {
            let [.., alpha] = point.0;
            for part in &mut point.0[..3] {
                let over_white = u16::from(*part) * u16::from(alpha) + 255 * (255 - u16::from(alpha));
                *part = u8::try_from(over_white / 255).unwrap_or(u8::MAX);
            }
        }
        DynamicImage::ImageRgba8(points).to_rgb8()
    } else {
        image.to_rgb8()
    };
    let mut bytes = Vec::new();
    JpegEncoder::new_with_quality(&mut bytes, QUALITY).encode_image(&points).map_err(broken)?;
    Ok(bytes)
}

#[cfg(test)]
mod tests {
    use super::*;
    use exif::{Field, In, Tag, Value, experimental::Writer};
    use image::{Rgb, RgbImage, Rgba, RgbaImage};

    /// A photo whose upper left corner is red, with what a phone writes: turned by a quarter, where it was and which phone.
    fn of_a_phone(width: u32, height: u32) -> Vec<u8> {
        let corner = |x, y| if x < width / 4 && y < height / 4 { Rgb([220, 20, 20]) } else { Rgb([240, 240, 230]) };
        let mut plain = Vec::new();
        JpegEncoder::new(&mut plain).encode_image(&RgbImage::from_fn(width, height, corner)).unwrap();
        let said = [
            // To be turned clockwise by a quarter when it is shown (Exif 2.32, 4.6.4, orientation 6).
            Field { tag: Tag::Orientation, ifd_num: In::PRIMARY, value: Value::Short(vec![6]) },
            Field { tag: Tag::Make, ifd_num: In::PRIMARY, value: Value::Ascii(vec![b"Some Maker".to_vec()]) },
            Field { tag: Tag::GPSLatitudeRef, ifd_num: In::PRIMARY, value: Value::Ascii(vec![b"N".to_vec()]) },
        ];
        let mut writer = Writer::new();
        said.iter().for_each(|field| writer.push_field(field));
        let mut data = Cursor::new(b"Exif\0\0".to_vec());
        data.set_position(6);
        let mut tiff = Cursor::new(Vec::new());
        writer.write(&mut tiff, false).unwrap();
        let mut segment = b"Exif\0\0".to_vec();
        segment.extend(tiff.into_inner());
        let length = u16::try_from(segment.len() + 2).unwrap().to_be_bytes();
        [&plain[..2], &[0xff, 0xe1], &length, &segment, &plain[2..]].concat()
    }

    /// What a general library finds that a camera wrote into a file.
    fn written_by_cameras(bytes: &[u8]) -> usize {
        let read = exif::Reader::new().read_from_container(&mut Cursor::new(bytes));
        read.map_or(0, |found| found.fields().count())
    }

    #[test]
    fn a_photo_stands_upright_and_says_nothing_of_places_and_phones() {
        let sent = of_a_phone(400, 200);
        assert_eq!(written_by_cameras(&sent), 3);
        let kept = prepare(sent).unwrap();
        assert_eq!((kept.media_type, kept.size), ("image/jpeg", Some((200, 400))));
        let small = kept.small.unwrap();
        assert_eq!(written_by_cameras(&kept.bytes) + written_by_cameras(&small), 0);
        assert!(!kept.bytes.windows(4).any(|four| four == b"Exif" || four == b"Make"));
        // What was up and left is up and right after a quarter clockwise.
        let shown = image::load_from_memory(&kept.bytes).unwrap().to_rgb8();
        assert!(shown.get_pixel(190, 10)[1] < 90 && shown.get_pixel(10, 10)[1] > 180, "{:?}", shown.get_pixel(190, 10));
        let small = image::load_from_memory(&small).unwrap();
        assert_eq!((small.width(), small.height()), (180, 360));
    }

    #[test]
    fn a_large_photo_is_kept_as_large_as_anybody_looks_at() {
        let kept = prepare(of_a_phone(2_400, 600)).unwrap();
        assert_eq!(kept.size, Some((512, 2_048)));
    }

    #[test]
    fn what_shines_through_is_white() {
        let mut png = Cursor::new(Vec::new());
        RgbaImage::from_pixel(20, 20, Rgba([0, 0, 0, 0])).write_to(&mut png, ImageFormat::Png).unwrap();
        let kept = prepare(png.into_inner()).unwrap();
        assert_eq!(image::load_from_memory(&kept.bytes).unwrap().to_rgb8().get_pixel(9, 9).0, [255, 255, 255]);
    }

    #[test]
    fn what_is_no_picture_is_refused_and_a_paper_stays_as_it_is() {
        let refused = |bytes: Vec<u8>| prepare(bytes).map(|kept| kept.size).unwrap_err().to_string();
        assert_eq!(refused(b"<html>".to_vec()), "file: is no photo (JPEG, PNG, WebP, GIF) and no PDF");
        let torn = of_a_phone(400, 200)[..200].to_vec();
        assert!(refused(torn).starts_with("file: can't be read as a picture: "));
        // A PNG (RFC 2083, 4.1.1) that says it is 2^31-1 points wide and high.
        let bomb = [
            b"\x89PNG\r\n\x1a\n".as_slice(),
            b"\0\0\0\rIHDR\x7f\xff\xff\xff\x7f\xff\xff\xff\x08\x02\0\0\0",
            &[0xb2, 0x6d, 0x69, 0x43],
        ];
        assert!(refused(bomb.concat()).starts_with("file: can't be read as a picture: "));
        assert!(refused(vec![0; LARGEST + 1]).starts_with("file: is larger than"));
        let paper = prepare(b"%PDF-1.7\n".to_vec()).unwrap();
        assert_eq!((paper.media_type, &paper.bytes[..], paper.size), (PAPER, b"%PDF-1.7\n".as_slice(), None));
    }
}
