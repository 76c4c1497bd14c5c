//! Which module of a crate uses which, from every path that its sources name.

use crate::source::{attributes, is_of_tests, sources};
use proc_macro2::{TokenStream, TokenTree};
use std::collections::{BTreeMap, BTreeSet};
use std::fs;
use std::path::{Path, PathBuf};
use syn::visit::{self, Visit};
use syn::{Item, UseTree};

/// Modules of a crate, each with the modules it uses; the crate's root is the empty name.
pub type Arrows = BTreeMap<String, BTreeSet<String>>;

fn module_of(root: &Path, file: &Path) -> String {
    let inside = file.strip_prefix(root).unwrap().with_extension("");
    let mut parts: Vec<&str> = inside.iter().map(|p| p.to_str().unwrap()).collect();
    if matches!(parts.last(), Some(&("mod" | "lib" | "main"))) {
        parts.pop();
    }
    parts.join("::")
}

/// Every path that a source names, wherever it stands in it; what is compiled for tests only is
/// left out, and that alone.
#[derive(Default)]
pub struct Named {
    found: Vec<String>,
    /// Files below this one.
    children: BTreeSet<String>,
    /// How many modules written within the file are open.
    depth: usize,
}

impl Named {
    /// Paths of a source, as they are meant from its file.
    pub fn of(text: &str) -> Vec<String> {
        let file = syn::parse_file(text).expect("a source");
        let mut named = Self::default();
        let modules = file.items.iter().filter_map(|item| {
            if let Item::Mod(own) = item {
                Some(own)
            } else {
                None
            }
        });
        named.children = modules
            .filter(|m| m.content.is_none())
            .map(|m| m.ident.to_string())
            .collect();
        named.visit_file(&file);
        named.found
    }

    /// Takes a path as it is meant from the file: a module within it is no step up.
    fn takes(&mut self, path: &str, is_use: bool) {
        let inside = std::iter::repeat_n("super::", self.depth)
            .fold(path, |p, up| p.strip_prefix(up).unwrap_or(p));
        let head = inside.split("::").next().unwrap_or_default();
        // A list of what stands below (`[child::ITEM]`) is how a folder is told of, and no use of
        // its files.
        if ["crate", "super"].contains(&head) || (is_use && self.children.contains(head)) {
            self.found.push(inside.trim_end_matches("::").to_owned());
        }
    }

    /// Takes the paths of what stands in a macro, which is not read as Rust.
    fn takes_tokens(&mut self, tokens: TokenStream) {
        let mut path = String::new();
        for token in tokens {
            match token {
                TokenTree::Ident(word) if path.is_empty() || path.ends_with(':') => {
                    path.push_str(&word.to_string())
                }
                TokenTree::Punct(mark) if mark.as_char() == ':' => path.push(':'),
                other => {
                    self.takes(&std::mem::take(&mut path), false);
                    match other {
                        TokenTree::Ident(word) => path = word.to_string(),
                        TokenTree::Group(group) => self.takes_tokens(group.stream()),
                        _ => {}
                    }
                }
            }
        }
        self.takes(&path, false);
    }

    fn takes_tree(&mut self, prefix: &str, tree: &UseTree) {
        match tree {
            UseTree::Path(path) => {
                self.takes_tree(&format!("{prefix}{}::", path.ident), &path.tree)
            }
            UseTree::Name(name) => self.takes(&format!("{prefix}{}", name.ident), true),
            UseTree::Rename(name) => self.takes(&format!("{prefix}{}", name.ident), true),
            UseTree::Glob(_) => self.takes(prefix, true),
            UseTree::Group(group) => group
                .items
                .iter()
                .for_each(|tree| self.takes_tree(prefix, tree)),
        }
    }
}

impl<'a> Visit<'a> for Named {
    fn visit_item(&mut self, item: &'a Item) {
        if is_of_tests(attributes(item)) {
            return;
        }
        let within = usize::from(matches!(item, Item::Mod(_)));
        self.depth += within;
        visit::visit_item(self, item);
        self.depth -= within;
    }

    fn visit_impl_item_fn(&mut self, own: &'a syn::ImplItemFn) {
        if !is_of_tests(&own.attrs) {
            visit::visit_impl_item_fn(self, own);
        }
    }

    fn visit_item_use(&mut self, own: &'a syn::ItemUse) {
        self.takes_tree("", &own.tree);
    }

    fn visit_path(&mut self, path: &'a syn::Path) {
        let words: Vec<String> = path.segments.iter().map(|s| s.ident.to_string()).collect();
        if words.len() > 1 {
            self.takes(&words.join("::"), false);
        }
        visit::visit_path(self, path);
    }

    fn visit_macro(&mut self, own: &'a syn::Macro) {
        self.takes_tokens(own.tokens.clone());
        visit::visit_macro(self, own);
    }
}

/// Arrows of a crate, read from the folder of its sources.
pub fn arrows(root: &Path) -> Arrows {
    let mut files = Vec::new();
    sources(root, &mut files);
    files.retain(|f| {
        !f.file_stem()
            .is_some_and(|s| s.to_str().unwrap().ends_with("tests"))
    });
    let modules: BTreeMap<String, PathBuf> = files
        .into_iter()
        .map(|f| (module_of(root, &f), f))
        .collect();
    let uses = |module: &String, file: &PathBuf| {
        let own: Vec<&str> = module.split("::").filter(|s| !s.is_empty()).collect();
        let meant = |path: String| {
            let parts: Vec<&str> = path.split("::").collect();
            let up = parts.iter().take_while(|p| **p == "super").count();
            let mut whole = match parts[0] {
                "crate" => parts[1..].to_vec(),
                "super" => [&own[..own.len().saturating_sub(up)], &parts[up..]].concat(),
                child if modules.contains_key(&[&own[..], &[child]].concat().join("::")) => {
                    [&own[..], &parts].concat()
                }
                _ => return None,
            };
            while !modules.contains_key(&whole.join("::")) {
                whole.pop();
            }
            Some(whole.join("::"))
        };
        Named::of(&fs::read_to_string(file).unwrap())
            .into_iter()
            .filter_map(meant)
            .filter(|to| to != module)
            .collect()
    };
    modules
        .iter()
        .map(|(module, file)| (module.clone(), uses(module, file)))
        .collect()
}

/// A circle of modules, where there is one: whatever is left when those that use nothing that is
/// left are taken out.
pub fn circle(arrows: &Arrows) -> BTreeSet<String> {
    let mut left: BTreeSet<String> = arrows.keys().cloned().collect();
    loop {
        let free: Vec<String> = left
            .iter()
            .filter(|m| arrows[*m].iter().all(|to| !left.contains(to)))
            .cloned()
            .collect();
        if free.is_empty() {
            return left;
        }
        left.retain(|m| !free.contains(m));
    }
}

/// Rooms of the core in the order in which `lib.rs` lists them, from the ground up.
pub fn floors(lib: &str) -> Vec<String> {
    let rows = lib
        .lines()
        .filter_map(|l| l.strip_prefix("//! | "))
        .filter(|row| row.starts_with(|c: char| c.is_ascii_digit()));
    rows.flat_map(|row| {
        row.split('|')
            .nth(1)
            .unwrap_or_default()
            .split(',')
            .map(|r| r.trim().trim_matches(['[', '`', ']']).to_owned())
            .collect::<Vec<_>>()
    })
    .collect()
}

/// Arrows of a core that run upward.
pub fn upward(root: &Path) -> Vec<String> {
    let floors = floors(&fs::read_to_string(root.join("lib.rs")).unwrap());
    let arrows = arrows(root);
    let room = |module: &str| module.split("::").next().unwrap_or_default().to_owned();
    let rooms: BTreeSet<String> = arrows
        .keys()
        .map(|m| room(m))
        .filter(|r| !r.is_empty())
        .collect();
    assert_eq!(
        floors.iter().cloned().collect::<BTreeSet<_>>(),
        rooms,
        "every room stands in the tour of lib.rs"
    );
    let height = |module: &str| floors.iter().position(|f| *f == room(module)).unwrap_or(0);
    arrows
        .iter()
        .flat_map(|(from, tos)| tos.iter().map(move |to| (from, to)))
        .filter(|(from, to)| height(to) > height(from))
        .map(|(from, to)| format!("{from} uses {to}"))
        .collect()
}
