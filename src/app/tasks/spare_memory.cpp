#include "app/tasks/spare_memory.h"

#ifdef __GLIBC__
#include <malloc.h>
#endif

namespace hscaffold::app {

void giveBackSpareMemory() {
#ifdef __GLIBC__
  malloc_trim(0);
#endif
}

}  // namespace hscaffold::app
