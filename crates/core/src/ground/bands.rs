//! Bands of days.

use super::time::DAY;

/// Days up to which the bands of the age of work reach. Source: SMRP 5.4.6 (from memory; own bands).
pub const AGE_BANDS: [i64; 4] = [7, 30, 90, 180];

/// Which band a time lies in: a band holds the days up to its end in full.
#[must_use]
pub fn band_of(ms: i64, bands: &[i64]) -> usize {
    bands.partition_point(|days| (days + 1) * DAY <= ms)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_band_holds_its_last_day_in_full() {
        let bands: Vec<usize> = [0, 7, 8, 30, 31, 180, 181].map(|days| band_of(days * DAY, &AGE_BANDS)).into();
        assert_eq!(bands, [0, 0, 1, 1, 2, 3, 4]);
        assert_eq!(band_of(8 * DAY - 1, &AGE_BANDS), 0);
    }
}
