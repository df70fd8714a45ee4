/**
 * A rule of the linter: no component and no hook reads a song's state (`songOf(desk)`, `useX.of(desk)`) while it renders. It is
 * compiled to call anything but a hook again only where what the call is given has changed, and the desk never does: what is read
 * so stays as it was first. Handlers and effects may read so. `except` names what may be called so.
 */
const IS_COMPONENT_OR_HOOK = /^(?:[A-Z]|use[A-Z])/;
const IS_HOOK = /^use[A-Z]\w*$/;
const FUNCTIONS = ['FunctionDeclaration', 'FunctionExpression', 'ArrowFunctionExpression'];

const isGivenTo = ({ parent }, name) => parent.type === 'CallExpression' && parent.callee.name === name;

/** The function that a place lies in; what is kept by `useMemo` is called by the component itself. */
function functionAround(node) {
  let at = node.parent;
  while (at && (!FUNCTIONS.includes(at.type) || isGivenTo(at, 'useMemo'))) at = at.parent;
  return at;
}

function nameOf(made) {
  const { parent } = isGivenTo(made, 'memo') ? made.parent : made;
  return made.id?.name ?? (parent.type === 'VariableDeclarator' ? parent.id.name : undefined);
}

export default {
  meta: {
    type: 'problem',
    schema: [{ type: 'object', properties: { except: { type: 'array', items: { type: 'string' } } } }],
    messages: { read: 'Read by a hook: “{{ call }}” is called once, and never again when what it reads changes.' },
  },
  create(context) {
    const { except = [] } = context.options[0] ?? {};
    return {
      CallExpression(node) {
        const isGivenDesk = node.arguments.some(({ type, name }) => type === 'Identifier' && name === 'desk');
        const called = node.callee.type === 'Identifier' ? node.callee.name : '';
        if (!isGivenDesk || IS_HOOK.test(called) || except.includes(called)) return;
        const around = functionAround(node);
        if (!around || !IS_COMPONENT_OR_HOOK.test(nameOf(around) ?? '')) return;
        context.report({ node, messageId: 'read', data: { call: context.sourceCode.getText(node) } });
      },
    };
  },
};
