//! Pictures, drawn: a dial, and a glass with oil behind it.

use image::{ImageFormat, Rgb, RgbImage};
use std::{f64::consts::PI, io::Cursor};
use tally_store::{
    Result, StoreError, Tx,
    ground::files::Files,
    outside::photos,
    work::{attachments, attachments::StoredFile},
};

const WIDTH: u32 = 960;
const HEIGHT: u32 = 720;

/// The dial's scale goes from there to there, as angles clockwise from above.
const SCALE: f64 = 0.75 * PI;
const MARKS: i32 = 10;
/// From this share of the scale on it is red.
const RED_FROM: f64 = 0.8;

const WALL: Rgb<u8> = Rgb([118, 124, 122]);
const RIM: Rgb<u8> = Rgb([44, 47, 48]);
const FACE: Rgb<u8> = Rgb([238, 234, 222]);
const OIL: Rgb<u8> = Rgb([196, 138, 48]);
const RED: Rgb<u8> = Rgb([190, 52, 34]);

/// A dial whose needle stands at that share of its scale.
pub fn dial(share: f64) -> RgbImage {
    let (middle_x, middle_y, radius) = (f64::from(WIDTH) / 2.0, f64::from(HEIGHT) / 2.0, 290.0);
    let needle = (share * 2.0 - 1.0) * SCALE;
    RgbImage::from_fn(WIDTH, HEIGHT, |x, y| {
        let (right, up) = (f64::from(x) - middle_x, middle_y - f64::from(y));
        let (out, angle) = (right.hypot(up) / radius, right.atan2(up));
        // Along the needle, and beside it.
        let along = (right * needle.sin() + up * needle.cos()) / radius;
        let beside = (right * needle.cos() - up * needle.sin()).abs() / radius;
        let mark = (angle / SCALE + 1.0) / 2.0 * f64::from(MARKS);
        let is_mark = (mark - mark.round()).abs() < 0.05 && angle.abs() <= SCALE * 1.01;
        let is_red = ((RED_FROM * 2.0 - 1.0) * SCALE..=SCALE).contains(&angle);
        match out {
            _ if out > 1.08 => WALL,
            _ if !(0.07..=1.0).contains(&out) => RIM,
            _ if (-0.12..0.86).contains(&along) && beside < 0.022 * (1.1 - along) => RIM,
            _ if (0.8..0.94).contains(&out) && is_mark => RIM,
            _ if (0.9..0.96).contains(&out) && is_red => RED,
            _ => FACE,
        }
    })
}

/// The marks of a glass, as shares of its height.
const LEVELS: [f64; 2] = [0.36, 0.64];

/// A round glass that oil fills to that share of its height, with two marks between which it should stand.
pub fn sight_glass(share: f64) -> RgbImage {
    let (middle_x, middle_y, radius) = (f64::from(WIDTH) / 2.0, f64::from(HEIGHT) / 2.0, 290.0);
    RgbImage::from_fn(WIDTH, HEIGHT, |x, y| {
        let (right, up) = ((f64::from(x) - middle_x) / radius, (middle_y - f64::from(y)) / radius);
        let out = right.hypot(up);
        let is_mark = LEVELS.iter().any(|level| (up - (level * 2.0 - 1.0)).abs() < 0.015);
        match out {
            _ if out > 1.12 => WALL,
            _ if out > 0.94 => RIM,
            _ if is_mark && right.abs() < 0.55 => RED,
            _ if (up + 1.0) / 2.0 < share => OIL,
            _ => FACE,
        }
    })
}

/// Somebody sends a picture.
pub fn send(tx: &mut Tx, files: &Files, drawn: &RgbImage) -> Result<StoredFile> {
    let mut taken = Cursor::new(Vec::new());
    drawn.write_to(&mut taken, ImageFormat::Jpeg).map_err(|error| StoreError::invalid("photo", error))?;
    attachments::keep(tx, files, &photos::prepare(taken.into_inner())?)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_needle_points_where_it_should() {
        let at = |dial: &RgbImage, right: i64, up: i64| {
            let place = |middle: u32, by: i64| u32::try_from(i64::from(middle) + by).unwrap();
            *dial.get_pixel(place(WIDTH / 2, right), place(HEIGHT / 2, -up))
        };
        // Half of the scale is straight up; five sixths of it lies to the right.
        assert_eq!((at(&dial(0.5), 0, 200), at(&dial(0.5), 200, 0)), (RIM, FACE));
        assert_eq!((at(&dial(5.0 / 6.0), 0, 200), at(&dial(5.0 / 6.0), 200, 0)), (FACE, RIM));
        assert_eq!(at(&dial(0.0), 470, 350), WALL);
        // Half full: oil below the middle, air above it.
        assert_eq!((at(&sight_glass(0.5), 0, -20), at(&sight_glass(0.5), 0, 20)), (OIL, FACE));
    }
}
