// What jemalloc, with which the window is linked, reads when it begins: pages that maps and proofs leave behind go back
// to the system after a few seconds, by a thread of its own. The usual allocator keeps them, twice as much as is in use
// after an hour, and gives them back only while everybody waits.
extern "C" {
extern const char* malloc_conf;
const char* malloc_conf = "background_thread:true,dirty_decay_ms:3000,muzzy_decay_ms:0";
}
