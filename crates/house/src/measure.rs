//! What a crate's sources measure: files, functions, docs, examples, names.

use crate::source::{attributes, is_of_tests, sources};
use std::collections::{BTreeMap, BTreeSet};
use std::fs;
use std::path::{Path, PathBuf};
use syn::spanned::Spanned;
use syn::visit::{self, Visit};
use syn::{Attribute, Expr, Item, Lit, Meta, Visibility};

/// A function and where it stands.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Function {
    /// Its name.
    pub name: String,
    /// First line, counted from 1; doc lines are not part of it.
    pub line: usize,
    /// Lines from `fn` to the closing brace.
    pub lines: usize,
    /// Whether others may call it.
    pub is_public: bool,
    /// Whether its docs have an example that is compiled.
    pub has_example: bool,
}

/// One source without what is compiled for tests only.
#[derive(Debug, Clone, Default)]
pub struct Source {
    /// Where it stands.
    pub path: PathBuf,
    /// Lines that are neither blank nor a comment nor of tests.
    pub code: usize,
    /// Lines of docs.
    pub docs: usize,
    /// Lines of code within that are compiled for tests only.
    pub tests: usize,
    /// All lines but those of tests within.
    pub lines: usize,
    /// Lines within items that are data: constants and statics of more than 20 lines.
    pub tables: usize,
    /// Its functions.
    pub functions: Vec<Function>,
    /// Structs, enums, traits and names of types that it defines.
    pub types: Vec<String>,
    /// Modules in files of their own that are compiled for tests only.
    pub test_modules: Vec<String>,
}

impl Source {
    /// Reads one from its text.
    pub fn of(path: &Path, text: &str) -> Self {
        let file = syn::parse_file(text).expect("a source");
        let mut source = Self {
            path: path.to_owned(),
            ..Self::default()
        };
        let mut reader = Reader {
            source: &mut source,
            tested: BTreeSet::new(),
        };
        reader.visit_file(&file);
        let tested = reader.tested;
        for (no, line) in text.lines().enumerate() {
            let line = line.trim();
            let is_code = !line.is_empty() && !line.starts_with("//");
            if tested.contains(&(no + 1)) {
                source.tests += usize::from(is_code);
                continue;
            }
            source.lines += 1;
            source.docs += usize::from(line.starts_with("///") || line.starts_with("//!"));
            source.code += usize::from(is_code);
        }
        source
    }

    /// Files of its modules that are compiled for tests only.
    fn test_files(&self) -> Vec<PathBuf> {
        let folder = match self.path.file_stem().and_then(|s| s.to_str()) {
            Some("mod" | "lib" | "main") | None => self.path.with_file_name(""),
            Some(_) => self.path.with_extension(""),
        };
        let file = |name: &String| folder.join(name).with_extension("rs");
        self.test_modules.iter().map(file).collect()
    }
}

struct Reader<'s> {
    source: &'s mut Source,
    /// Lines that are compiled for tests only.
    tested: BTreeSet<usize>,
}

fn has_example(attributes: &[Attribute]) -> bool {
    let text: Vec<String> = attributes
        .iter()
        .filter_map(|own| match &own.meta {
            Meta::NameValue(pair) if pair.path.is_ident("doc") => match &pair.value {
                Expr::Lit(literal) => match &literal.lit {
                    Lit::Str(text) => Some(text.value().trim().to_owned()),
                    _ => None,
                },
                _ => None,
            },
            _ => None,
        })
        .collect();
    text.iter().any(|line| line == "```" || line == "```rust")
}

impl Reader<'_> {
    fn takes(
        &mut self,
        attributes: &[Attribute],
        visibility: Option<&Visibility>,
        signature: &syn::Signature,
        end: usize,
    ) {
        let line = signature.span().start().line;
        self.source.functions.push(Function {
            name: signature.ident.to_string(),
            line,
            lines: end + 1 - line,
            is_public: matches!(visibility, Some(Visibility::Public(_))),
            has_example: has_example(attributes),
        });
    }
}

impl<'a> Visit<'a> for Reader<'_> {
    fn visit_item(&mut self, item: &'a Item) {
        let (start, end) = (item.span().start().line, item.span().end().line);
        if is_of_tests(attributes(item)) {
            self.tested.extend(start..=end);
            if let Item::Mod(own) = item {
                self.source.test_modules.push(own.ident.to_string());
            }
            return;
        }
        match item {
            Item::Struct(own) => self.source.types.push(own.ident.to_string()),
            Item::Enum(own) => self.source.types.push(own.ident.to_string()),
            Item::Trait(own) => self.source.types.push(own.ident.to_string()),
            Item::Type(own) => self.source.types.push(own.ident.to_string()),
            Item::Const(_) | Item::Static(_) if end - start > 20 => {
                self.source.tables += end + 1 - start;
            }
            _ => {}
        }
        visit::visit_item(self, item);
    }

    fn visit_item_fn(&mut self, own: &'a syn::ItemFn) {
        let end = own.block.span().end().line;
        self.takes(&own.attrs, Some(&own.vis), &own.sig, end);
        visit::visit_item_fn(self, own);
    }

    fn visit_impl_item_fn(&mut self, own: &'a syn::ImplItemFn) {
        if is_of_tests(&own.attrs) {
            let span = own.span();
            self.tested.extend(span.start().line..=span.end().line);
            return;
        }
        let end = own.block.span().end().line;
        self.takes(&own.attrs, Some(&own.vis), &own.sig, end);
        visit::visit_impl_item_fn(self, own);
    }
}

/// A crate's sources, those of its tests apart.
#[derive(Debug, Clone, Default)]
pub struct Measured {
    /// What is compiled into the program.
    pub sources: Vec<Source>,
    /// Lines of code in tests, within the sources and beside them.
    pub tests: usize,
}

/// Measures a crate: its `src`, and how much code its `tests` have.
pub fn measured(folder: &Path) -> Measured {
    let mut files = Vec::new();
    sources(&folder.join("src"), &mut files);
    files.sort();
    let is_of_tests = |file: &PathBuf| {
        let stem = file.file_stem().and_then(|s| s.to_str());
        stem.is_some_and(|s| s.ends_with("tests"))
    };
    let (tests, files): (Vec<_>, Vec<_>) = files.into_iter().partition(is_of_tests);
    let read = |file: &PathBuf| Source::of(file, &fs::read_to_string(file).expect("a source"));
    let all: Vec<Source> = files.iter().map(read).collect();
    let for_tests: BTreeSet<PathBuf> = all.iter().flat_map(Source::test_files).collect();
    let (tested, sources_read): (Vec<_>, Vec<_>) =
        all.into_iter().partition(|s| for_tests.contains(&s.path));
    let mut beside = tests;
    beside.extend(tested.into_iter().map(|s| s.path));
    if folder.join("tests").is_dir() {
        sources(&folder.join("tests"), &mut beside);
    }
    let in_tests = |file: &PathBuf| {
        let source = read(file);
        source.code + source.tests
    };
    Measured {
        tests: beside.iter().map(in_tests).sum::<usize>()
            + sources_read.iter().map(|s| s.tests).sum::<usize>(),
        sources: sources_read,
    }
}

/// Names of types that stand for more than one, each with the files that define it.
pub fn shared_names(all: &[Source]) -> BTreeMap<String, Vec<PathBuf>> {
    let mut names: BTreeMap<String, Vec<PathBuf>> = BTreeMap::new();
    for source in all {
        for name in &source.types {
            names
                .entry(name.clone())
                .or_default()
                .push(source.path.clone());
        }
    }
    names.retain(|_, files| files.len() > 1);
    names
}

/// The value below which a share of the values lie; 0 of none.
fn quantile(values: &mut [usize], share: f64) -> usize {
    values.sort_unstable();
    let last = values.len().saturating_sub(1);
    let at = (share * last as f64).round() as usize;
    values.get(at).copied().unwrap_or(0)
}

/// One row of the table, in Markdown.
pub fn row(name: &str, measured: &Measured) -> String {
    let all = &measured.sources;
    let mut lines: Vec<usize> = all.iter().map(|s| s.lines).collect();
    let functions: Vec<&Function> = all.iter().flat_map(|s| &s.functions).collect();
    let mut long: Vec<usize> = functions.iter().map(|f| f.lines).collect();
    let (code, docs) = all
        .iter()
        .fold((0, 0), |sum, s| (sum.0 + s.code, sum.1 + s.docs));
    let public: Vec<&&Function> = functions.iter().filter(|f| f.is_public).collect();
    format!(
        "| {name} | {} | {}/{}/{} | {}/{} | {} | {:.2} | {} of {} | {:.2} |",
        all.len(),
        quantile(&mut lines, 0.5),
        quantile(&mut lines, 0.95),
        quantile(&mut lines, 1.0),
        quantile(&mut long, 0.5),
        quantile(&mut long, 0.95),
        long.iter().filter(|l| **l > 60).count(),
        docs as f64 / code.max(1) as f64,
        public.iter().filter(|f| f.has_example).count(),
        public.len(),
        measured.tests as f64 / code.max(1) as f64,
    )
}
