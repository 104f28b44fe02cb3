/* A prototype, which no part of Hook Set uses: attributes of elements taken out of an XML file while it is parsed.
 *
 * columns(data, rules) -> [([text, ...], [number of the element, ...]), ...], one pair for each rule; a rule is
 * (element, the element around it or "", attribute). No tree is made. Raises ValueError for what is no XML. */
#define PY_SSIZE_T_CLEAN
#include <Python.h>
#include <expat.h>
#include <string.h>

enum { MOST_RULES = 64, DEEPEST = 1024 };

struct rule {
  const char *name, *above, *attribute;
  PyObject *texts, *numbers;
};

struct state {
  struct rule rules[MOST_RULES];
  int count, depth, failed;
  long number;
  /* Names of the elements that are open; expat hands over the same text for the same name only while it is open. */
  char open[DEEPEST][64];
};

static void begun(void *data, const XML_Char *name, const XML_Char **attributes) {
  struct state *state = data;
  const char *above = state->depth > 0 && state->depth <= DEEPEST ? state->open[state->depth - 1] : "";
  for (int at = 0; at < state->count && !state->failed; at++) {
    struct rule *rule = &state->rules[at];
    if (strcmp(rule->name, name) != 0 || (*rule->above && strcmp(rule->above, above) != 0)) continue;
    for (const XML_Char **one = attributes; *one; one += 2) {
      if (strcmp(*one, rule->attribute) != 0) continue;
      PyObject *text = PyUnicode_FromString(one[1]), *number = PyLong_FromLong(state->number);
      state->failed = !text || !number || PyList_Append(rule->texts, text) || PyList_Append(rule->numbers, number);
      Py_XDECREF(text);
      Py_XDECREF(number);
    }
  }
  if (state->depth < DEEPEST) {
    strncpy(state->open[state->depth], name, 63);
    state->open[state->depth][63] = 0;
  }
  state->depth++;
  state->number++;
}

static void ended(void *data, const XML_Char *name) {
  (void)name;
  ((struct state *)data)->depth--;
}

static PyObject *columns(PyObject *self, PyObject *args) {
  (void)self;
  const char *data;
  Py_ssize_t size;
  PyObject *rules;
  if (!PyArg_ParseTuple(args, "y#O!", &data, &size, &PyList_Type, &rules)) return NULL;
  struct state *state = PyMem_Calloc(1, sizeof *state);
  PyObject *found = PyList_New(0);
  if (!state || !found) return PyErr_NoMemory();
  state->count = (int)(PyList_GET_SIZE(rules) < MOST_RULES ? PyList_GET_SIZE(rules) : MOST_RULES);
  for (int at = 0; at < state->count; at++) {
    struct rule *rule = &state->rules[at];
    if (!PyArg_ParseTuple(PyList_GET_ITEM(rules, at), "sss", &rule->name, &rule->above, &rule->attribute)) return NULL;
    rule->texts = PyList_New(0);
    rule->numbers = PyList_New(0);
    PyObject *pair = PyTuple_Pack(2, rule->texts, rule->numbers);
    PyList_Append(found, pair);
    Py_DECREF(pair);
    Py_DECREF(rule->texts);
    Py_DECREF(rule->numbers);
  }
  XML_Parser parser = XML_ParserCreate(NULL);
  XML_SetUserData(parser, state);
  XML_SetElementHandler(parser, begun, ended);
  int parsed = XML_Parse(parser, data, (int)size, 1) == XML_STATUS_OK;
  int failed = state->failed;
  XML_ParserFree(parser);
  PyMem_Free(state);
  if (failed || !parsed) {
    Py_DECREF(found);
    if (!failed) PyErr_SetString(PyExc_ValueError, "this is no XML");
    return NULL;
  }
  return found;
}

static PyMethodDef methods[] = {{"columns", columns, METH_VARARGS, NULL}, {NULL, NULL, 0, NULL}};
static struct PyModuleDef module = {PyModuleDef_HEAD_INIT, "columns", NULL, -1, methods, NULL, NULL, NULL, NULL};

PyMODINIT_FUNC PyInit_columns(void) { return PyModule_Create(&module); }
