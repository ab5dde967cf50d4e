//! Lines of cells. A long log has millions of cells: they lie in one text, with the places where they end.

/// Lines, each with its number in the file.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Lines {
    text: String,
    /// Where each cell ends in the text.
    ends: Vec<u32>,
    /// Number of the line, and its first cell.
    starts: Vec<(u64, u32)>,
}

/// One line.
#[derive(Debug, Clone, Copy)]
pub struct Row<'a> {
    of: &'a Lines,
    at: usize,
}

impl Lines {
    /// Cuts a text at a separator; what is in quotes stays together. Cells lose the blanks around them.
    pub fn cut(text: &str, separator: u8) -> Self {
        let mut reader = csv::ReaderBuilder::new()
            .delimiter(separator)
            .has_headers(false)
            .trim(csv::Trim::All)
            .flexible(true)
            .from_reader(text.as_bytes());
        let mut out = Self::default();
        let mut record = csv::StringRecord::new();
        while matches!(reader.read_record(&mut record), Ok(true)) {
            let line = record.position().map_or(0, csv::Position::line);
            out.push(line, &record);
        }
        out
    }

    /// Adds a line.
    pub fn push<'a>(&mut self, line: u64, cells: impl IntoIterator<Item = &'a str>) {
        self.starts.push((line, size(self.ends.len())));
        for cell in cells {
            self.text.push_str(cell);
            self.ends.push(size(self.text.len()));
        }
    }

    /// How many there are.
    pub fn len(&self) -> usize {
        self.starts.len()
    }

    /// A line by its place.
    pub fn row(&self, at: usize) -> Row<'_> {
        Row { of: self, at }
    }

    /// All of them.
    pub fn iter(&self) -> impl DoubleEndedIterator<Item = Row<'_>> + ExactSizeIterator {
        (0..self.len()).map(|at| self.row(at))
    }

    /// Keeps only those between two places, both included.
    pub fn keep(&mut self, first: usize, last: usize) {
        if let Some(behind) = self.starts.get(last + 1) {
            self.ends.truncate(behind.1 as usize);
        }
        self.starts.truncate(last + 1);
        self.starts.drain(..first);
    }
}

/// No file that is taken has as many bytes.
fn size(n: usize) -> u32 {
    u32::try_from(n).unwrap_or(u32::MAX)
}

impl<'a> Row<'a> {
    /// Its number in the file, from 1.
    pub fn line(self) -> u64 {
        self.of.starts[self.at].0
    }

    fn first(self) -> usize {
        self.of.starts[self.at].1 as usize
    }

    /// How many cells it has.
    pub fn len(self) -> usize {
        self.end() - self.first()
    }

    fn end(self) -> usize {
        match self.of.starts.get(self.at + 1) {
            Some(next) => next.1 as usize,
            None => self.of.ends.len(),
        }
    }

    /// A cell; empty where the line has none.
    pub fn cell(self, i: usize) -> &'a str {
        let at = self.first() + i;
        if at >= self.end() {
            return "";
        }
        let from = at.checked_sub(1).map_or(0, |k| self.of.ends[k] as usize);
        &self.of.text[from..self.of.ends[at] as usize]
    }

    /// All its cells.
    pub fn cells(self) -> impl Iterator<Item = &'a str> {
        (0..self.len()).map(move |i| self.cell(i))
    }

    /// The same, each on its own.
    pub fn owned(self) -> Vec<String> {
        self.cells().map(Into::into).collect()
    }
}
