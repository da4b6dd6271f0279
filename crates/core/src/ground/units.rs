//! Units of meters as UCUM codes, and numbers as people write them.

/// How a UCUM code is shown: `Cel` as `°C`, `[g]` as `g`, `1` as nothing.
#[must_use]
pub fn shown(ucum: &str) -> &str {
    match ucum {
        "Cel" => "°C",
        "[g]" => "g",
        "1" => "",
        "um" => "µm",
        other => other,
    }
}

/// A number without needless digits: at most six significant ones.
#[must_use]
pub fn number(value: f64) -> String {
    if value == 0.0 {
        return "0".into();
    }
    let magnitude = value.abs().log10().floor();
    let decimals = (5.0 - magnitude).clamp(0.0, 12.0) as usize;
    let text = format!("{value:.decimals$}");
    if text.contains('.') { text.trim_end_matches('0').trim_end_matches('.').into() } else { text }
}

/// A number with so many significant digits, as a person would set it.
#[must_use]
pub fn significant(value: f64, digits: u8) -> f64 {
    if value == 0.0 || !value.is_finite() {
        return value;
    }
    rounded(value, value.abs().log10().floor() as i32 + 1 - i32::from(digits))
}

/// A number rounded to a power of ten: to a hundredth for -2.
#[must_use]
pub fn rounded(value: f64, power: i32) -> f64 {
    // Dividing by a whole power leaves no dust behind the last digit.
    let ten = 10f64.powi(power.abs());
    if power < 0 { (value * ten).round() / ten } else { (value / ten).round() * ten }
}

/// So many of something, thousands parted: `1,200 work orders`.
#[must_use]
pub fn counted(count: usize, one: &str, many: &str) -> String {
    let digits = count.to_string();
    let parts: Vec<&str> =
        digits.as_bytes().rchunks(3).rev().filter_map(|part| std::str::from_utf8(part).ok()).collect();
    format!("{} {}", parts.join(","), if count == 1 { one } else { many })
}

/// A number with its unit as people write it: `96 bar`.
#[must_use]
pub fn quantity(value: f64, ucum: &str) -> String {
    format!("{} {}", number(value), shown(ucum)).trim_end().into()
}

/// Units that convert into each other: UCUM code, what they measure, and the way to that dimension's base: base = factor ·
/// value + offset. Factors are exact by definition (SI; international inch, pound and standard gravity; from memory).
const KNOWN: &[(&str, &str, f64, f64)] = &[
    ("Cel", "temperature", 1.0, 273.15),
    ("K", "temperature", 1.0, 0.0),
    ("[degF]", "temperature", 5.0 / 9.0, 459.67 * 5.0 / 9.0),
    ("Pa", "pressure", 1.0, 0.0),
    ("kPa", "pressure", 1e3, 0.0),
    ("MPa", "pressure", 1e6, 0.0),
    ("mbar", "pressure", 1e2, 0.0),
    ("bar", "pressure", 1e5, 0.0),
    ("[psi]", "pressure", 6_894.757_293_168_361, 0.0),
    ("m/s", "velocity", 1.0, 0.0),
    ("cm/s", "velocity", 1e-2, 0.0),
    ("mm/s", "velocity", 1e-3, 0.0),
    ("[in_i]/s", "velocity", 0.0254, 0.0),
    ("m/s2", "acceleration", 1.0, 0.0),
    ("[g]", "acceleration", 9.806_65, 0.0),
    ("m", "length", 1.0, 0.0),
    ("cm", "length", 1e-2, 0.0),
    ("mm", "length", 1e-3, 0.0),
    ("um", "length", 1e-6, 0.0),
    ("[in_i]", "length", 0.0254, 0.0),
    ("s", "time", 1.0, 0.0),
    ("min", "time", 60.0, 0.0),
    ("h", "time", 3_600.0, 0.0),
    ("d", "time", 86_400.0, 0.0),
    ("N", "force", 1.0, 0.0),
    ("kN", "force", 1e3, 0.0),
    ("[lbf_av]", "force", 4.448_221_615_260_5, 0.0),
    ("1", "share", 1.0, 0.0),
    ("%", "share", 1e-2, 0.0),
];

/// How values of one unit become values of another: `factor · value + offset`.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Conversion {
    pub factor: f64,
    pub offset: f64,
}

impl Conversion {
    /// From a unit to itself.
    pub const SAME: Self = Self { factor: 1.0, offset: 0.0 };

    /// From one UCUM code to another; `None` where they measure different things or are not known.
    #[must_use]
    pub fn between(from: &str, to: &str) -> Option<Self> {
        if from == to {
            return Some(Self::SAME);
        }
        let known = |code: &str| KNOWN.iter().find(|(unit, ..)| *unit == code);
        let ((_, of, factor, offset), (_, to_of, to_factor, to_offset)) = (known(from)?, known(to)?);
        (of == to_of).then(|| Self { factor: factor / to_factor, offset: (offset - to_offset) / to_factor })
    }

    /// The value in the other unit. Decimals stay decimals: what the factor adds beyond the twelfth digit is cut.
    #[must_use]
    pub fn apply(self, value: f64) -> f64 {
        if self == Self::SAME {
            return value;
        }
        let converted = self.factor * value + self.offset;
        let magnitude = 10f64.powf(11.0 - converted.abs().max(1e-12).log10().floor());
        (converted * magnitude).round() / magnitude
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn numbers_as_people_set_and_count_them() {
        let three: Vec<f64> =
            [4.0049, 123_456.0, 0.012_349, -9.996, 0.0].iter().map(|value| significant(*value, 3)).collect();
        assert_eq!(three, [4.0, 123_000.0, 0.0123, -10.0, 0.0]);
        assert_eq!((rounded(0.1 + 0.2, -2), rounded(1_504.0, 1)), (0.3, 1_500.0));
        let counts: Vec<String> = [0, 1, 999, 1_000, 1_234_567].iter().map(|n| counted(*n, "one", "many")).collect();
        assert_eq!(counts, ["0 many", "1 one", "999 many", "1,000 many", "1,234,567 many"]);
    }
    use rstest::rstest;

    // Fixed points: water freezes at 32 °F and boils at 212 °F; 14.5038 psi to the bar, 25.4 mm to the inch (from memory).
    #[rstest]
    #[case::boiling("[degF]", "Cel", 212.0, 100.0)]
    #[case::freezing("Cel", "[degF]", 0.0, 32.0)]
    #[case::absolute("K", "Cel", 300.0, 26.85)]
    #[case::pressure("[psi]", "bar", 14.503_773_773, 1.0)]
    #[case::kilopascal("kPa", "bar", 250.0, 2.5)]
    #[case::inches("[in_i]/s", "mm/s", 0.5, 12.7)]
    #[case::gravity("m/s2", "[g]", 9.806_65, 1.0)]
    #[case::same("furlong", "furlong", 3.0, 3.0)]
    fn units_of_one_kind_convert(#[case] from: &str, #[case] to: &str, #[case] value: f64, #[case] expected: f64) {
        let converted = Conversion::between(from, to).unwrap().apply(value);
        assert!((converted - expected).abs() < 1e-9 * expected.abs().max(1.0), "{converted}");
    }

    #[test]
    fn units_of_different_kinds_do_not() {
        assert_eq!(Conversion::between("bar", "Cel"), None);
        assert_eq!(Conversion::between("bar", "furlong"), None);
    }

    #[test]
    fn quantities_read_as_people_write_them() {
        assert_eq!(quantity(96.0, "bar"), "96 bar");
        assert_eq!(quantity(4.250_000_1, "[g]"), "4.25 g");
        assert_eq!(quantity(71.5, "Cel"), "71.5 °C");
        assert_eq!(quantity(3.0, "1"), "3");
        assert_eq!(number(18_234.0), "18234");
        assert_eq!(number(-0.125), "-0.125");
        assert_eq!(number(1_234_567.0), "1234567");
    }
}
