//! From bytes to text: UTF-8, UTF-16, or what Western systems wrote before both.

use crate::reading::fault::Fault;
use encoding_rs::{Encoding, UTF_16BE, UTF_16LE, WINDOWS_1252};

/// A file's text, and the name of its encoding.
pub fn text(file: &str, bytes: &[u8]) -> Result<(String, &'static str), Fault> {
    if let Some((encoding, _)) = Encoding::for_bom(bytes) {
        let (text, _, is_broken) = encoding.decode(bytes);
        return if is_broken {
            Err(Fault::file(
                file,
                format!("is not {} throughout", encoding.name()),
            ))
        } else {
            Ok((text.into_owned(), encoding.name()))
        };
    }
    // Plain letters in UTF-16 have a zero in every other byte.
    let zeros = |odd: usize| {
        bytes
            .iter()
            .skip(odd)
            .step_by(2)
            .filter(|b| **b == 0)
            .count()
    };
    let half = bytes.len() / 2;
    if half > 4 {
        for (odd, encoding) in [(1, UTF_16LE), (0, UTF_16BE)] {
            if zeros(odd) * 10 > half * 7 && zeros(1 - odd) == 0 {
                return Ok((encoding.decode(bytes).0.into_owned(), encoding.name()));
            }
        }
    }
    if bytes.contains(&0) {
        return Err(Fault::file(file, "is not text (it holds zero bytes)"));
    }
    Ok(match std::str::from_utf8(bytes) {
        Ok(t) => (t.to_owned(), "UTF-8"),
        Err(_) => (WINDOWS_1252.decode(bytes).0.into_owned(), "Latin-1"),
    })
}
