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

/// A number with its unit as people write it: `96 bar`.
#[must_use]
pub fn quantity(value: f64, ucum: &str) -> String {
    format!("{} {}", number(value), shown(ucum)).trim_end().into()
}

#[cfg(test)]
mod tests {
    use super::*;

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
