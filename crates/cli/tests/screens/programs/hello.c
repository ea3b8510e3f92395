/* Says a word, and ends. */
#include <stdio.h>
int main(void) { return puts("hello") < 0; }
