//! Numbers as people read them.

use nimbet_kernel::Point;

/// A point as it stands in JSON: x, y, z in mm.
pub type Xyz = [f64; 3];

pub(crate) fn xyz(p: Point) -> Xyz {
    p.to_array()
}

/// Whether a character stands for itself: it neither controls nor turns the direction of the text after it, nor is it without width.
fn is_plain_character(c: char) -> bool {
    let turns = matches!(c, '\u{061C}' | '\u{200B}'..='\u{200F}' | '\u{2028}'..='\u{202E}' | '\u{2060}'..='\u{206F}' | '\u{FEFF}');
    !c.is_control() && !turns
}

/// Whether a name can be shown as it is anywhere.
pub fn is_plain(text: &str) -> bool {
    text.chars().all(is_plain_character)
}

/// A name without what cannot be shown as it is anywhere.
pub fn plain(text: &str) -> String {
    text.chars().filter(|c| is_plain_character(*c)).collect()
}

/// A length with as many decimals as its size deserves: `214 mm`, `3.27 mm`, `0.0412 mm`.
pub fn millimetres(x: f64) -> String {
    format!("{} mm", figure(x))
}

/// A mass as it is weighed: `0.83 g`, `14.06 kg`.
pub fn grams(x: f64) -> String {
    if x >= 1000.0 { format!("{:.2} kg", x / 1000.0) } else { format!("{} g", figure(x)) }
}

/// A volume: `0.84 mm³`, `12.3 cm³`.
pub fn volume_of(v: f64) -> String {
    if v.abs() >= 1000.0 { format!("{} cm³", figure(v / 1000.0)) } else { format!("{} mm³", figure(v)) }
}

/// Three to four significant digits without exponent, thin spaces between thousands; tiny values keep two.
pub fn figure(x: f64) -> String {
    let size = x.abs();
    let decimals = match size {
        s if s >= 100.0 => 0,
        s if s >= 10.0 => 1,
        s if s >= 1.0 => 2,
        s if s >= 0.01 || s == 0.0 => 3,
        // Two digits, of parts whose file was in metres and taken for millimetres, too.
        s => (1 - s.log10().floor() as i32).clamp(5, 9) as usize,
    };
    let text = format!("{x:.decimals$}");
    let text = if text.contains('.') { text.trim_end_matches('0').trim_end_matches('.') } else { &text };
    if text == "-0" { "0".to_owned() } else { grouped(text) }
}

/// Thin spaces between the thousands of a number's whole digits.
fn grouped(number: &str) -> String {
    let (whole, fraction) = number.split_at(number.find('.').unwrap_or(number.len()));
    let mut out = String::with_capacity(number.len() + 4);
    for (n, digit) in whole.chars().enumerate() {
        let left = whole.len() - n;
        if n > 0 && left.is_multiple_of(3) && !out.ends_with('-') {
            out.push('\u{2009}');
        }
        out.push(digit);
    }
    out + fraction
}

/// A whole number with thin spaces between thousands.
pub fn whole(n: usize) -> String {
    grouped(&n.to_string())
}

/// `1 rim`, `2 rims`.
pub fn count(n: usize, one: &str, many: &str) -> String {
    format!("{} {}", whole(n), if n == 1 { one } else { many })
}
