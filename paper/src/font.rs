//! The fonts: three faces, and how wide a text is in them.

use crate::Fault;
use krilla::text::Font;
use std::collections::HashMap;

/// A face.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum Face {
    Regular,
    Bold,
    Mono,
}

struct Loaded {
    font: Font,
    /// Width of each letter, in em.
    widths: HashMap<char, f32>,
}

pub struct Fonts(HashMap<Face, Loaded>);

const FILES: [(Face, &[u8]); 3] = [
    (Face::Regular, include_bytes!("../fonts/regular.ttf")),
    (Face::Bold, include_bytes!("../fonts/bold.ttf")),
    (Face::Mono, include_bytes!("../fonts/mono.ttf")),
];

impl Fonts {
    pub fn load() -> Result<Self, Fault> {
        let mut out = HashMap::new();
        for (face, bytes) in FILES {
            let broken = || Fault("a font that ships with Ruhe cannot be read".into());
            let parsed = ttf_parser::Face::parse(bytes, 0).map_err(|_| broken())?;
            let em = f32::from(parsed.units_per_em());
            let mut widths = HashMap::new();
            if let Some(cmap) = parsed.tables().cmap {
                for table in cmap.subtables {
                    table.codepoints(|c| {
                        if let (Some(c), Some(g)) = (char::from_u32(c), table.glyph_index(c)) {
                            let w = parsed.glyph_hor_advance(g).unwrap_or(0);
                            widths.insert(c, f32::from(w) / em);
                        }
                    });
                }
            }
            let font = Font::new(bytes.to_vec().into(), 0).ok_or_else(broken)?;
            out.insert(face, Loaded { font, widths });
        }
        Ok(Self(out))
    }

    pub fn font(&self, face: Face) -> Option<Font> {
        self.0.get(&face).map(|l| l.font.clone())
    }

    /// A text with only letters that the face has: Latin, Greek and Cyrillic. One of another alphabet is named by its
    /// number, U+6F22, so that a signed page says which it was, and never stands for another.
    pub fn clean(&self, face: Face, text: &str) -> String {
        let Some(loaded) = self.0.get(&face) else {
            return String::new();
        };
        let mut out = String::with_capacity(text.len());
        for c in text.chars() {
            match c {
                '\u{a0}' | '\u{2009}' | '\t' | '\n' => out.push(' '),
                '→' => out.push_str("to"),
                '≤' => out.push_str("at most"),
                '≥' => out.push_str("at least"),
                'µ' => out.push('u'),
                c if loaded.widths.contains_key(&c) => out.push(c),
                _ => out.push_str(&format!("U+{:04X} ", u32::from(c))),
            }
        }
        out
    }

    /// Width of a text that is clean, pt.
    pub fn width(&self, face: Face, size: f32, text: &str) -> f32 {
        let Some(loaded) = self.0.get(&face) else {
            return 0.0;
        };
        text.chars()
            .map(|c| loaded.widths.get(&c).copied().unwrap_or(0.5))
            .sum::<f32>()
            * size
    }

    /// Breaks a text into lines no wider than `most`, pt; a word that is wider is cut.
    pub fn lines(&self, face: Face, size: f32, text: &str, most: f32) -> Vec<String> {
        let text = self.clean(face, text);
        let fits = |t: &str| self.width(face, size, t) <= most;
        let mut out: Vec<String> = vec![];
        let mut line = String::new();
        // A sign of its own stays with its figure.
        let mut words: Vec<String> = vec![];
        for w in text.split(' ').filter(|w| !w.is_empty()) {
            match words.last_mut() {
                Some(before) if w.starts_with('%') => before.push_str(&format!(" {w}")),
                _ => words.push(w.to_owned()),
            }
        }
        for word in &words {
            let longer = if line.is_empty() {
                word.clone()
            } else {
                format!("{line} {word}")
            };
            if fits(&longer) {
                line = longer;
                continue;
            }
            if !line.is_empty() {
                out.push(std::mem::take(&mut line));
            }
            for c in word.chars() {
                line.push(c);
                if !fits(&line) && line.chars().count() > 1 {
                    line.pop();
                    out.push(std::mem::take(&mut line));
                    line.push(c);
                }
            }
        }
        if !line.is_empty() {
            out.push(line);
        }
        // Words are parted by spaces, at the end of a line too, so that a reader does not run them together.
        let last = out.len().saturating_sub(1);
        for (i, l) in out.iter_mut().enumerate() {
            if i < last && text.contains(&format!("{l} ")) {
                l.push(' ');
            }
        }
        out
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn lines_fit_and_keep_every_word() {
        let f = Fonts::load().unwrap();
        let text = "Any leak that would empty this system within 12 days would have shown. Smaller ones may \
             still be there.";
        let lines = f.lines(Face::Regular, 10.0, text, 120.0);
        assert!(
            lines.len() > 2
                && lines
                    .iter()
                    .all(|l| f.width(Face::Regular, 10.0, l.trim_end()) <= 120.0)
        );
        assert_eq!(lines.concat(), text);
        let share = f.lines(Face::Regular, 10.0, "0.14 % of it", 34.0);
        assert_eq!(share[0], "0.14 % ");
        let long = f.lines(Face::Mono, 9.0, &"f".repeat(64), 100.0);
        assert!(long.len() > 2 && long.concat() == "f".repeat(64));
        assert_eq!(f.clean(Face::Regular, "3 → 4 °F, 漢"), "3 to 4 °F, U+6F22 ");
        for name in [
            "Hà Nội",
            "Łódź, Győr, Reykjavík",
            "Μεγάλη αποθήκη",
            "Холодный склад, Ёлка",
        ] {
            for face in [Face::Regular, Face::Bold, Face::Mono] {
                assert_eq!(f.clean(face, name), name);
            }
        }
    }
}
