//! Sheets: text set line by line, tables, figures; and what of it belongs together when it is read aloud.

use crate::Paper;
use crate::font::{Face, Fonts};

/// A colour.
pub type Ink = [u8; 3];
pub const BLACK: Ink = [25, 23, 19];
pub const SOFT: Ink = [75, 70, 60];
pub const LINE: Ink = [190, 184, 170];
pub const ACCENT: Ink = [20, 82, 74];

/// Something drawn at a place of a page, pt from the top left.
#[derive(Debug, Clone)]
pub enum Mark {
    Text {
        x: f32,
        y: f32,
        face: Face,
        size: f32,
        ink: Ink,
        text: String,
    },
    /// Points; a line through them, filled or stroked.
    Path {
        points: Vec<Vec<(f32, f32)>>,
        width: f32,
        ink: Ink,
        fill: bool,
    },
    Picture {
        x: f32,
        y: f32,
        w: f32,
        h: f32,
        mime: String,
        bytes: Vec<u8>,
    },
}

/// A mark on its page, and the leaf of the reading order it belongs to; none: decoration.
#[derive(Debug, Clone)]
pub struct Item {
    pub page: usize,
    pub leaf: Option<usize>,
    pub mark: Mark,
}

/// What belongs together.
#[derive(Debug, Clone)]
pub enum Block {
    Heading {
        level: u16,
        text: String,
        /// Page and height it stands at, for the outline.
        at: (usize, f32),
        leaves: Vec<usize>,
    },
    Paragraph(Vec<usize>),
    List(Vec<Vec<usize>>),
    /// Rows of cells; the first row is the head.
    Table(Vec<Vec<Vec<usize>>>),
    Figure {
        alt: String,
        leaf: usize,
    },
}

/// Everything, ready to be drawn.
#[derive(Debug, Clone)]
pub struct Laid {
    pub width: f32,
    pub height: f32,
    pub pages: usize,
    pub items: Vec<Item>,
    pub blocks: Vec<Block>,
    pub leaves: usize,
}

const MARGIN: f32 = 44.0;
const FOOT: f32 = 40.0;

pub struct Sheet<'a> {
    fonts: &'a Fonts,
    laid: Laid,
    y: f32,
    /// Headings with nothing behind them yet: they go to the next page with what they head.
    heads: Option<Heads>,
    /// A figure at the right edge that lines stay clear of: its page, bottom and width.
    beside: Option<(usize, f32, f32)>,
}

/// Headings at the end of what was set, with the lines that sum up what they head.
struct Heads {
    /// There are such lines.
    has_text: bool,
    /// Where the first of them begins: in the items, in the blocks, and on the page.
    items: usize,
    blocks: usize,
    y: f32,
    /// Where the items end behind them.
    end: usize,
}

/// A paragraph of no more lines than this is not parted.
const WHOLE: usize = 5;

/// How a text is set: face, size, ink.
type Style = (Face, f32, Ink);
const HEAD: Style = (Face::Bold, 8.3, SOFT);
const ROW: Style = (Face::Regular, 8.8, BLACK);
/// From line to line of a table, in sizes.
const LEADING: f32 = 1.28;

/// The cells of a row, broken into lines.
struct Cells {
    lines: Vec<Vec<String>>,
    height: f32,
}

/// A box to draw in, with its own leaf.
pub struct Canvas<'s> {
    items: &'s mut Vec<Item>,
    fonts: &'s Fonts,
    page: usize,
    leaf: usize,
    pub x: f32,
    pub y: f32,
    pub w: f32,
    pub h: f32,
}

impl Canvas<'_> {
    fn push(&mut self, mark: Mark) {
        self.items.push(Item {
            page: self.page,
            leaf: Some(self.leaf),
            mark,
        });
    }
    pub fn line(&mut self, points: Vec<(f32, f32)>, width: f32, ink: Ink) {
        if points.len() > 1 {
            self.push(Mark::Path {
                points: vec![points],
                width,
                ink,
                fill: false,
            });
        }
    }
    pub fn filled(&mut self, shapes: Vec<Vec<(f32, f32)>>, ink: Ink) {
        self.push(Mark::Path {
            points: shapes,
            width: 0.0,
            ink,
            fill: true,
        });
    }
    /// A text whose start (or end, if `right`) is at x; gives back its start.
    pub fn text(&mut self, x: f32, y: f32, text: &str, right: bool) -> f32 {
        let (face, size) = (Face::Mono, 7.5);
        let text = self.fonts.clean(face, text);
        let x = if right {
            x - self.fonts.width(face, size, &text)
        } else {
            x
        };
        self.push(Mark::Text {
            x,
            y,
            face,
            size,
            ink: SOFT,
            text,
        });
        x
    }
    pub fn picture(&mut self, mime: &str, bytes: Vec<u8>, w: f32, h: f32) {
        let (x, y) = (self.x, self.y);
        self.push(Mark::Picture {
            x,
            y,
            w,
            h,
            mime: mime.into(),
            bytes,
        });
    }
}

impl<'a> Sheet<'a> {
    pub fn new(paper: Paper, fonts: &'a Fonts) -> Self {
        let (width, height) = match paper {
            Paper::A4 => (595.28, 841.89),
            Paper::Letter => (612.0, 792.0),
        };
        Self {
            fonts,
            laid: Laid {
                width,
                height,
                pages: 1,
                items: vec![],
                blocks: vec![],
                leaves: 0,
            },
            y: MARGIN,
            heads: None,
            beside: None,
        }
    }

    pub fn pages(&self) -> usize {
        self.laid.pages
    }
    pub fn width(&self) -> f32 {
        self.laid.width - 2.0 * MARGIN
    }
    /// Width of a line here, beside what was put at the right of this page.
    fn room(&self) -> f32 {
        match self.beside {
            Some((page, bottom, w)) if page == self.laid.pages && self.y < bottom => {
                self.width() - w - 10.0
            }
            _ => self.width(),
        }
    }
    fn bottom(&self) -> f32 {
        self.laid.height - MARGIN - FOOT
    }

    pub fn new_page(&mut self) {
        self.laid.pages += 1;
        self.y = MARGIN;
    }
    /// Goes to the next page if less than so much is left.
    pub fn keep(&mut self, height: f32) {
        if self.y + height <= self.bottom() {
            return;
        }
        let heads = self.heads.take();
        let heads = heads.filter(|h| h.end == self.laid.items.len() && h.y > MARGIN + 1.0);
        let y = self.y;
        self.new_page();
        let Some(h) = heads else { return };
        let up = h.y - MARGIN;
        for item in &mut self.laid.items[h.items..] {
            item.page += 1;
            if let Mark::Text { y, .. } = &mut item.mark {
                *y -= up;
            }
        }
        for block in &mut self.laid.blocks[h.blocks..] {
            if let Block::Heading { at, .. } = block {
                *at = (at.0 + 1, at.1 - up);
            }
        }
        self.y = y - up;
    }
    pub fn space(&mut self, height: f32) {
        if self.y > MARGIN {
            self.y += height;
        }
    }

    fn leaf(&mut self) -> usize {
        self.laid.leaves += 1;
        self.laid.leaves - 1
    }

    fn put(&mut self, leaf: Option<usize>, mark: Mark) {
        let page = self.laid.pages - 1;
        self.laid.items.push(Item { page, leaf, mark });
    }

    /// Sets lines at the current place; gives back their leaves.
    fn set(
        &mut self,
        text: &str,
        (face, size, ink): (Face, f32, Ink),
        x: f32,
        most: f32,
    ) -> Vec<usize> {
        let leading = size * 1.32;
        let mut out = vec![];
        let lines = self.fonts.lines(face, size, text, most);
        if lines.len() <= WHOLE {
            self.keep(leading * lines.len() as f32);
        }
        for line in lines {
            self.keep(leading);
            self.y += leading;
            let leaf = self.leaf();
            out.push(leaf);
            let y = self.y - size * 0.3;
            self.put(
                Some(leaf),
                Mark::Text {
                    x,
                    y,
                    face,
                    size,
                    ink,
                    text: line,
                },
            );
        }
        out
    }

    pub fn heading(&mut self, level: u16, text: &str) {
        let size = match level {
            1 => 19.0,
            2 => 12.5,
            _ => 10.5,
        };
        self.space(if level == 1 { 0.0 } else { 9.0 });
        self.keep(size * 1.3 + 34.0);
        let before = self.heads.take();
        let heads = before.filter(|h| h.end == self.laid.items.len() && !h.has_text);
        let mut heads = heads.unwrap_or(Heads {
            has_text: false,
            items: self.laid.items.len(),
            blocks: self.laid.blocks.len(),
            y: self.y,
            end: 0,
        });
        let at = (self.laid.pages - 1, self.y);
        let room = self.room();
        let leaves = self.set(text, (Face::Bold, size, BLACK), MARGIN, room);
        self.y += 2.0;
        self.laid.blocks.push(Block::Heading {
            level,
            text: text.into(),
            at,
            leaves,
        });
        heads.end = self.laid.items.len();
        self.heads = Some(heads);
    }

    pub fn paragraph(&mut self, text: &str) {
        self.summing_up(text, (Face::Regular, 9.5, BLACK));
    }
    pub fn bold(&mut self, text: &str) {
        self.summing_up(text, (Face::Bold, 10.5, BLACK));
    }
    /// A line or two under a heading stay with it, and with what follows, as the heading itself does.
    fn summing_up(&mut self, text: &str, style: Style) {
        let (items, pages) = (self.laid.items.len(), self.laid.pages);
        self.styled(text, style);
        let set = self.laid.items.len() - items;
        let heads = self.heads.as_mut().filter(|h| h.end == items);
        if let Some(h) = heads.filter(|_| set <= 2 && pages == self.laid.pages) {
            h.end = self.laid.items.len();
            h.has_text = true;
        }
    }
    pub fn soft(&mut self, text: &str) {
        self.styled(text, (Face::Regular, 8.8, SOFT));
    }
    pub fn mono(&mut self, text: &str) {
        self.styled(text, (Face::Mono, 8.0, SOFT));
    }
    fn styled(&mut self, text: &str, style: (Face, f32, Ink)) {
        if text.trim().is_empty() {
            return;
        }
        let room = self.room();
        let leaves = self.set(text, style, MARGIN, room);
        self.y += 2.0;
        self.laid.blocks.push(Block::Paragraph(leaves));
    }

    pub fn list<S: AsRef<str>>(&mut self, items: &[S]) {
        let mut all = vec![];
        for text in items {
            self.keep(13.0);
            let (y, page) = (self.y, self.laid.pages - 1);
            let leaves = self.set(
                text.as_ref(),
                (Face::Regular, 9.5, BLACK),
                MARGIN + 12.0,
                self.width() - 12.0,
            );
            if leaves.is_empty() {
                continue;
            }
            let at = y + 7.4;
            let dot = vec![vec![
                (MARGIN + 2.0, at),
                (MARGIN + 6.0, at),
                (MARGIN + 6.0, at + 1.3),
                (MARGIN + 2.0, at + 1.3),
            ]];
            self.laid.items.push(Item {
                page,
                leaf: None,
                mark: Mark::Path {
                    points: dot,
                    width: 0.0,
                    ink: ACCENT,
                    fill: true,
                },
            });
            all.push(leaves);
            self.y += 1.5;
        }
        if !all.is_empty() {
            self.laid.blocks.push(Block::List(all));
        }
    }

    pub fn rule(&mut self) {
        self.space(4.0);
        let (w, y) = (self.laid.width - MARGIN, self.y);
        self.put(
            None,
            Mark::Path {
                points: vec![vec![(MARGIN, y), (w, y)]],
                width: 0.7,
                ink: LINE,
                fill: false,
            },
        );
        self.y += 3.0;
    }

    /// A table; `widths` are shares of the line; columns marked `right` are set to the right.
    pub fn table(&mut self, head: &[&str], rows: &[Vec<String>], widths: &[f32], right: &[bool]) {
        if rows.is_empty() {
            return;
        }
        let total: f32 = widths.iter().sum();
        let wide: Vec<f32> = widths.iter().map(|w| w / total * self.width()).collect();
        let mut out = vec![];
        let head: Vec<String> = head.iter().map(|h| (*h).to_owned()).collect();
        let above = self.cells(&head, HEAD, &wide);
        for (i, row) in rows.iter().enumerate() {
            let set = self.cells(row, ROW, &wide);
            if i == 0 {
                self.keep(above.height + set.height);
                out.push(self.row(&above, HEAD, &wide, right, true));
            } else {
                let page = self.laid.pages;
                self.keep(set.height);
                if page != self.laid.pages {
                    // Said again for the eye; who is read to has heard it.
                    self.row(&above, HEAD, &wide, right, false);
                }
            }
            out.push(self.row(&set, ROW, &wide, right, true));
        }
        self.y += 3.0;
        self.laid.blocks.push(Block::Table(out));
    }

    /// The lines of a row's cells.
    fn cells(&self, row: &[String], (face, size, _): Style, wide: &[f32]) -> Cells {
        let lines: Vec<Vec<String>> = row
            .iter()
            .zip(wide)
            .map(|(t, w)| self.fonts.lines(face, size, t, w - 6.0))
            .collect();
        let most = lines.iter().map(Vec::len).max().unwrap_or(1).max(1);
        Cells {
            height: size * LEADING * most as f32 + 4.0,
            lines,
        }
    }

    /// Sets a row where it is; gives back the leaves of its cells, none where it is not read.
    fn row(
        &mut self,
        set: &Cells,
        (face, size, ink): Style,
        wide: &[f32],
        right: &[bool],
        is_read: bool,
    ) -> Vec<Vec<usize>> {
        let leading = size * LEADING;
        let (top, edge) = (self.y, self.laid.width - MARGIN);
        self.put(
            None,
            Mark::Path {
                points: vec![vec![(MARGIN, top), (edge, top)]],
                width: 0.5,
                ink: LINE,
                fill: false,
            },
        );
        let mut x = MARGIN;
        let mut cells = vec![];
        for (k, lines) in set.lines.iter().enumerate() {
            let mut leaves = vec![];
            for (j, line) in lines.iter().enumerate() {
                let leaf = is_read.then(|| self.leaf());
                leaves.extend(leaf);
                let y = top + 2.0 + leading * (j + 1) as f32 - size * 0.25;
                let shift = if right.get(k) == Some(&true) {
                    wide[k] - 6.0 - self.fonts.width(face, size, line.trim_end())
                } else {
                    0.0
                };
                let mark = Mark::Text {
                    x: x + shift,
                    y,
                    face,
                    size,
                    ink,
                    text: line.clone(),
                };
                self.put(leaf, mark);
            }
            cells.push(leaves);
            x += wide[k];
        }
        self.y = top + set.height;
        cells
    }

    /// A figure with words for who cannot see it.
    pub fn figure(&mut self, (w, h): (f32, f32), alt: &str, draw: impl FnOnce(&mut Canvas<'_>)) {
        self.keep(h + 6.0);
        self.placed((MARGIN, self.y + 3.0, w, h), alt, draw);
        self.y += h + 6.0;
    }

    /// A figure at a place of this page. At the right edge the lines beside it are shorter.
    pub fn placed(
        &mut self,
        (x, y, w, h): (f32, f32, f32, f32),
        alt: &str,
        draw: impl FnOnce(&mut Canvas<'_>),
    ) {
        if x > MARGIN {
            self.beside = Some((self.laid.pages, y + h, w));
        }
        let leaf = self.leaf();
        let mut canvas = Canvas {
            items: &mut self.laid.items,
            fonts: self.fonts,
            page: self.laid.pages - 1,
            leaf,
            x,
            y,
            w,
            h,
        };
        draw(&mut canvas);
        self.laid.blocks.push(Block::Figure {
            alt: alt.into(),
            leaf,
        });
    }

    pub fn right_edge(&self) -> f32 {
        self.laid.width - MARGIN
    }
    pub fn top() -> f32 {
        MARGIN
    }

    /// Adds the foot of every page.
    pub fn finish(mut self, foot: &str) -> Laid {
        let (face, size) = (Face::Regular, 7.8);
        for page in 0..self.laid.pages {
            let y = self.laid.height - MARGIN;
            let number = format!("page {} of {}", page + 1, self.laid.pages);
            let left = self.fonts.clean(face, foot);
            let x = self.laid.width - MARGIN - self.fonts.width(face, size, &number);
            for (x, text) in [(MARGIN, left), (x, number)] {
                let mark = Mark::Text {
                    x,
                    y,
                    face,
                    size,
                    ink: SOFT,
                    text,
                };
                self.laid.items.push(Item {
                    page,
                    leaf: None,
                    mark,
                });
            }
        }
        self.laid
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn placed(laid: &Laid, text: &str) -> Vec<(usize, f32)> {
        let of = |i: &Item| match &i.mark {
            Mark::Text { text: t, y, .. } if t.trim() == text => Some((i.page, *y)),
            _ => None,
        };
        laid.items.iter().filter_map(of).collect()
    }

    #[test]
    fn what_heads_and_sums_up_goes_with_what_follows() {
        let fonts = Fonts::load().unwrap();
        let mut s = Sheet::new(Paper::A4, &fonts);
        s.y = s.bottom() - 90.0;
        s.heading(2, "Hold 1");
        s.bold("Holds");
        s.paragraph("Tight.");
        s.figure((100.0, 120.0), "a curve", |_| {});
        s.y = s.bottom() - 60.0;
        s.heading(2, "Alone");
        s.paragraph("A line that follows.");
        let laid = s.finish("");
        let all = ["Hold 1", "Holds", "Tight."].map(|t| placed(&laid, t)[0]);
        assert!(all.iter().all(|p| p.0 == 1), "{all:?}");
        assert!(all[0].1 < all[1].1 && all[1].1 < all[2].1 && all[0].1 < 80.0);
        assert_eq!(placed(&laid, "Alone")[0].0, 1);
        let heading = laid.blocks.iter().find_map(|b| match b {
            Block::Heading { text, at, .. } if text == "Hold 1" => Some(at.0),
            _ => None,
        });
        assert_eq!(heading, Some(1));
    }

    #[test]
    fn lines_stay_clear_of_what_stands_beside_them() {
        let fonts = Fonts::load().unwrap();
        let mut s = Sheet::new(Paper::A4, &fonts);
        let right = s.right_edge();
        s.placed((right - 60.0, Sheet::top(), 60.0, 60.0), "a code", |_| {});
        let long = "a name that goes on and on ".repeat(6);
        s.heading(1, &long);
        let laid = s.finish("");
        for item in &laid.items {
            if let Mark::Text {
                x,
                face,
                size,
                text,
                ..
            } = &item.mark
                && text.contains("name")
            {
                assert!(
                    x + fonts.width(*face, *size, text.trim_end()) <= right - 65.0,
                    "{text}"
                );
            }
        }
    }

    #[test]
    fn a_table_says_its_head_again_and_is_read_once() {
        let fonts = Fonts::load().unwrap();
        let mut s = Sheet::new(Paper::Letter, &fonts);
        let rows: Vec<Vec<String>> = (0..70)
            .map(|i| vec![format!("row {i}"), "x".into()])
            .collect();
        s.table(&["Joint", "State"], &rows, &[1.0, 1.0], &[]);
        let laid = s.finish("");
        let heads = placed(&laid, "Joint");
        let pages: Vec<usize> = heads.iter().map(|h| h.0).collect();
        assert_eq!(pages, (0..laid.pages).collect::<Vec<_>>());
        let Some(Block::Table(read)) = laid.blocks.first() else {
            panic!("no table");
        };
        assert_eq!(read.len(), 71);
        assert!(read.iter().flatten().all(|c| c.len() == 1));
    }
}
