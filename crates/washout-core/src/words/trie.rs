//! A prefix tree over keys, built once from a sorted list and never changed.

use super::spelling::CharKey;

/// Where a walk stands: the number of a node. The root is node 0.
pub(super) type NodeId = u32;

#[derive(Clone, Debug)]
struct TrieNode {
    /// The children of a node stand in a row: `edges[first_edge..last_edge]`.
    first_edge: u32,
    last_edge: u32,
    /// The entry that ends here: its index in the list the tree was made from, or [`NONE`].
    entry: u32,
}

const NONE: u32 = u32::MAX;

#[derive(Clone, Debug)]
pub(super) struct Trie {
    nodes: Vec<TrieNode>,
    /// Key and node of each child, sorted by key within one parent.
    edges: Vec<(CharKey, NodeId)>,
}

impl Trie {
    /// The tree of these entries. Sorting makes all entries of one prefix neighbours, so that each level of the tree
    /// is a run through the list: 100,000 entries take well under a second.
    #[expect(
        clippy::cast_possible_truncation,
        reason = "a list of 2^32 characters is refused long before, by its size"
    )]
    pub(super) fn new(entries: Vec<Vec<CharKey>>) -> Self {
        let mut entries: Vec<(Vec<CharKey>, u32)> = entries.into_iter().zip(0..).collect();
        entries.sort_unstable();
        entries.dedup_by(|later, first| later.0 == first.0);
        let mut trie = Self { nodes: vec![TrieNode { first_edge: 0, last_edge: 0, entry: NONE }], edges: Vec::new() };
        // Node, its depth, and its entries in the sorted list.
        let mut open = std::collections::VecDeque::from([(0, 0, 0..entries.len())]);
        while let Some((node, depth, mut range)) = open.pop_front() {
            if entries.get(range.start).is_some_and(|entry| !range.is_empty() && entry.0.len() == depth) {
                trie.nodes[node as usize].entry = entries[range.start].1;
                range.start += 1;
            }
            trie.nodes[node as usize].first_edge = trie.edges.len() as u32;
            while range.start < range.end {
                let key = entries[range.start].0[depth];
                let same = entries[range.clone()].partition_point(|entry| entry.0[depth] == key);
                let child = trie.nodes.len() as NodeId;
                trie.nodes.push(TrieNode { first_edge: 0, last_edge: 0, entry: NONE });
                trie.edges.push((key, child));
                open.push_back((child, depth + 1, range.start..range.start + same));
                range.start += same;
            }
            trie.nodes[node as usize].last_edge = trie.edges.len() as u32;
        }
        trie
    }

    #[inline]
    pub(super) fn child(&self, node: NodeId, key: CharKey) -> Option<NodeId> {
        let TrieNode { first_edge, last_edge, .. } = self.nodes[node as usize];
        let edges = &self.edges[first_edge as usize..last_edge as usize];
        match edges {
            [] => None,
            [(only, child)] => (*only == key).then_some(*child),
            _ => edges.binary_search_by_key(&key, |(key, _)| *key).ok().map(|found| edges[found].1),
        }
    }

    #[inline]
    pub(super) fn entry(&self, node: NodeId) -> Option<usize> {
        let entry = self.nodes[node as usize].entry;
        (entry != NONE).then_some(entry as usize)
    }

    /// The keys entries begin with.
    pub(super) fn first_keys(&self) -> impl Iterator<Item = CharKey> + '_ {
        let root = &self.nodes[0];
        self.edges[root.first_edge as usize..root.last_edge as usize].iter().map(|(key, _)| *key)
    }
}
