//! From sheets to the PDF: marks page by page, each with its leaf; then the tree in which they are read.

use crate::Fault;
use crate::font::Fonts;
use crate::sheet::{Block, Ink, Laid, Mark};
use krilla::color::rgb;
use krilla::configure::{Accessibility, Archival, ConfigurationBuilder};
use krilla::destination::XyzDestination;
use krilla::geom::{PathBuilder, Point, Size, Transform};
use krilla::image::Image;
use krilla::metadata::{DateTime, Metadata};
use krilla::num::NormalizedF32;
use krilla::outline::{Outline, OutlineNode};
use krilla::page::PageSettings;
use krilla::paint::{Fill, Stroke};
use krilla::surface::Surface;
use krilla::tagging::{
    Artifact, ArtifactType, ContentTag, Identifier, ListNumbering, Node, SpanTag, TableHeaderScope,
    Tag, TagGroup, TagTree,
};
use krilla::text::TextDirection;
use krilla::{Document, SerializeSettings};
use std::num::NonZeroU16;

fn ink(c: Ink) -> rgb::Color {
    rgb::Color::new(c[0], c[1], c[2])
}

fn mark(s: &mut Surface<'_>, m: &Mark, fonts: &Fonts) {
    match m {
        Mark::Text {
            x,
            y,
            face,
            size,
            ink: c,
            text,
        } => {
            let Some(font) = fonts.font(*face) else {
                return;
            };
            s.set_stroke(None);
            s.set_fill(Some(Fill {
                paint: ink(*c).into(),
                ..Fill::default()
            }));
            s.draw_text(
                Point::from_xy(*x, *y),
                font,
                *size,
                text,
                false,
                TextDirection::LeftToRight,
            );
        }
        Mark::Path {
            points,
            width,
            ink: c,
            fill,
        } => {
            let mut b = PathBuilder::new();
            for shape in points {
                for (i, (x, y)) in shape.iter().enumerate() {
                    if i == 0 {
                        b.move_to(*x, *y)
                    } else {
                        b.line_to(*x, *y)
                    }
                }
                if *fill {
                    b.close();
                }
            }
            let Some(path) = b.finish() else { return };
            if *fill {
                s.set_stroke(None);
                s.set_fill(Some(Fill {
                    paint: ink(*c).into(),
                    opacity: NormalizedF32::ONE,
                    ..Fill::default()
                }));
            } else {
                s.set_fill(None);
                s.set_stroke(Some(Stroke {
                    paint: ink(*c).into(),
                    width: *width,
                    ..Stroke::default()
                }));
            }
            s.draw_path(&path);
        }
        Mark::Picture {
            x,
            y,
            w,
            h,
            mime,
            bytes,
        } => {
            let data = bytes.clone().into();
            let image = match mime.as_str() {
                "image/png" => Image::from_png(data, true),
                "image/webp" => Image::from_webp(data, true),
                _ => Image::from_jpeg(data, true),
            };
            if let (Ok(image), Some(size)) = (image, Size::from_wh(*w, *h)) {
                s.push_transform(&Transform::from_translate(*x, *y));
                s.draw_image(image, size);
                s.pop();
            }
        }
    }
}

/// Nodes of leaves that were drawn.
fn nodes(leaves: &[usize], ids: &mut [Option<Identifier>]) -> Vec<Node> {
    leaves
        .iter()
        .filter_map(|l| ids.get_mut(*l)?.take())
        .map(Node::from)
        .collect()
}

fn tree(blocks: &[Block], ids: &mut [Option<Identifier>]) -> TagTree {
    let mut out = TagTree::new().with_lang(Some("en".into()));
    for b in blocks {
        match b {
            Block::Heading {
                level,
                text,
                leaves,
                ..
            } => {
                let level = NonZeroU16::new(*level).unwrap_or(NonZeroU16::MIN);
                out.push(TagGroup::with_children(
                    Tag::Hn(level, Some(text.clone())),
                    nodes(leaves, ids),
                ));
            }
            Block::Paragraph(leaves) => {
                out.push(TagGroup::with_children(Tag::P, nodes(leaves, ids)))
            }
            Block::List(items) => {
                let mut list = TagGroup::new(Tag::L(ListNumbering::Disc));
                for leaves in items {
                    let body = TagGroup::with_children(Tag::LBody, nodes(leaves, ids));
                    list.push(TagGroup::with_children(Tag::LI, vec![body.into()]));
                }
                out.push(list);
            }
            Block::Table(rows) => {
                let mut table = TagGroup::new(Tag::Table);
                for (i, row) in rows.iter().enumerate() {
                    let mut tr = TagGroup::new(Tag::TR);
                    for leaves in row {
                        let inside =
                            vec![TagGroup::with_children(Tag::P, nodes(leaves, ids)).into()];
                        if i == 0 {
                            tr.push(TagGroup::with_children(
                                Tag::TH(TableHeaderScope::Column),
                                inside,
                            ));
                        } else {
                            tr.push(TagGroup::with_children(Tag::TD, inside));
                        }
                    }
                    table.push(tr);
                }
                out.push(table);
            }
            Block::Figure { alt, leaf } => {
                out.push(TagGroup::with_children(
                    Tag::Figure(Some(alt.clone())),
                    nodes(&[*leaf], ids),
                ));
            }
        }
    }
    out
}

/// A moment as a PDF keeps it.
fn moment(ms: i64) -> Option<DateTime> {
    let at = jiff::Timestamp::from_millisecond(ms).ok()?;
    let at = jiff::tz::Offset::UTC.to_datetime(at);
    let part = |n: i8| u8::try_from(n).unwrap_or(0);
    Some(
        DateTime::new(u16::try_from(at.year()).ok()?)
            .month(part(at.month()))
            .day(part(at.day()))
            .hour(part(at.hour()))
            .minute(part(at.minute()))
            .second(part(at.second()))
            .utc_offset_hour(0)
            .utc_offset_minute(0),
    )
}

/// Writes what was laid out, at a moment (ms since 1970 UTC), to be kept for years (PDF/A-2a) and read aloud
/// (PDF/UA-1).
pub fn write(laid: Laid, fonts: &Fonts, title: &str, at_ms: i64) -> Result<Vec<u8>, Fault> {
    let broken = |e: &dyn std::fmt::Debug| Fault(format!("the PDF cannot be made: {e:?}"));
    let configuration = ConfigurationBuilder::new()
        .with_accessibility_validator(Accessibility::UA1)
        .with_archival_validator(Archival::A2_A)
        .finish()
        .map_err(|e| broken(&e))?;
    let mut document = Document::new_with(SerializeSettings {
        configuration,
        ..SerializeSettings::default()
    });
    let about = Metadata::new()
        .title(title.into())
        .language("en".into())
        .creator("Ruhe".into());
    document.set_metadata(match moment(at_ms) {
        Some(t) => about.creation_date(t),
        None => about,
    });
    let mut ids: Vec<Option<Identifier>> = vec![None; laid.leaves];
    for page in 0..laid.pages {
        let settings = PageSettings::from_wh(laid.width, laid.height)
            .ok_or_else(|| Fault("a page has no size".into()))?;
        let mut p = document.start_page_with(settings);
        let mut s = p.surface();
        let mut open: Option<Option<usize>> = None;
        for item in laid.items.iter().filter(|i| i.page == page) {
            if open != Some(item.leaf) {
                if open.is_some() {
                    s.end_tagged();
                }
                open = Some(item.leaf);
                match item.leaf {
                    Some(leaf) => {
                        let tag = if matches!(item.mark, Mark::Text { .. }) {
                            ContentTag::Span(SpanTag::empty())
                        } else {
                            ContentTag::Other
                        };
                        let id = s.start_tagged(tag);
                        if let Some(slot) = ids.get_mut(leaf) {
                            *slot = Some(id);
                        }
                    }
                    None => {
                        s.start_tagged(ContentTag::Artifact(Artifact::with_kind(
                            ArtifactType::Other,
                        )));
                    }
                }
            }
            mark(&mut s, &item.mark, fonts);
        }
        if open.is_some() {
            s.end_tagged();
        }
        s.finish();
        p.finish();
    }
    let mut outline = Outline::new();
    for b in &laid.blocks {
        if let Block::Heading { text, at, .. } = b {
            let place = XyzDestination::new(at.0, Point::from_xy(0.0, at.1));
            outline.push_child(OutlineNode::new(text.clone(), place));
        }
    }
    document.set_outline(outline);
    document.set_tag_tree(tree(&laid.blocks, &mut ids));
    document.finish().map_err(|e| broken(&e))
}
