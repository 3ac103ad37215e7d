import {
  DndContext,
  type DragEndEvent,
  PointerSensor,
  useDraggable,
  useDroppable,
  useSensor,
  useSensors,
} from '@dnd-kit/core';
import { ActionIcon, Menu, SegmentedControl } from '@mantine/core';
import { IconDots, IconGripVertical } from '@tabler/icons-react';
import { useEffect, useRef } from 'react';
import type { RuleFault } from '../../core/repair/rule-faults';
import { CONDITION_FORMS, TEST_FORMS } from '../../core/repair/test-forms';
import {
  childPath,
  insertNode,
  moveNode,
  pathText,
  removeNode,
  replaceNode,
  stepOf,
  type TreePath,
} from '../../core/repair/tree-edits';
import type { Rule, TestTree } from '../../core/rules/rule';
import type { RuleOffers } from '../../server/chain/rule-view';
import { TextButton } from '../common/TextButton';
import { AddMenu } from './fields';
import { LeafEditor } from './leaf/LeafEditor';
import classes from './RuleDesk.module.css';

interface Props {
  readonly rule: Rule;
  readonly faults: readonly RuleFault[];
  readonly offers: RuleOffers;
  readonly onChange: (rule: Rule) => void;
  /** The value for no exceptions. */
  readonly testsOnly?: boolean;
}

type Branch = Exclude<TestTree, { kind: 'leaf' }>;

/** The tests and exceptions of a rule: nested groups, dragged or moved by arrow keys. */
export function TreeEditor(props: Props) {
  const { rule, onChange, testsOnly = false } = props;
  const frame = useRef<HTMLDivElement>(null);
  const added = useRef<string | null>(null);
  // Focuses the test that was just added.
  useEffect(() => {
    const node = added.current === null ? null : frame.current?.querySelector(`[data-node="${added.current}"]`);
    if (!node) return;
    added.current = null;
    const field =
      node.querySelector<HTMLElement>('[data-keys] input, [data-keys] textarea') ?? node.querySelector('input');
    field?.focus();
  });
  const onAdd = (path: TreePath) => {
    added.current = pathText(path);
  };
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 5 } }));
  const drop = ({ active, over }: DragEndEvent) => {
    if (!over) return;
    // Drag data that this editor has set.
    const { branch, index } = over.data.current as { branch: TreePath; index: number };
    onChange(moveNode(rule, (active.data.current as { path: TreePath }).path, branch, index));
  };
  const tests = rule.tests.kind === 'leaf' ? ({ kind: 'all', children: [rule.tests] } as const) : rule.tests;
  return (
    <DndContext sensors={sensors} onDragEnd={drop}>
      <div ref={frame}>
        <h2 className={classes.heading}>When</h2>
        <BranchEditor {...props} branch={tests} path={['tests']} onAdd={onAdd} />
        {!testsOnly && (
          <>
            <h2 className={classes.heading}>Unless any of these matches</h2>
            <BranchEditor {...props} branch={{ kind: 'any', children: rule.unless }} path={['unless']} onAdd={onAdd} />
          </>
        )}
      </div>
    </DndContext>
  );
}

const KINDS: { value: Branch['kind']; label: string }[] = [
  { value: 'all', label: 'all of these' },
  { value: 'any', label: 'any of these' },
  { value: 'none', label: 'none of these' },
];

interface BranchProps extends Props {
  readonly branch: Branch;
  readonly path: TreePath;
  /** Called with the path of an added node. */
  readonly onAdd: (path: TreePath) => void;
}

function BranchEditor(props: BranchProps) {
  const { rule, faults, offers, onChange, onAdd, branch, path } = props;
  const isExceptions = path.length === 1 && path[0] === 'unless';
  const add = (made: TestTree) => {
    onAdd(childPath(path, branch.children.length));
    onChange(insertNode(rule, path, branch.children.length, made));
  };
  return (
    <div className={classes.branch} data-outermost={path.length === 1 || undefined}>
      {!isExceptions && (
        <div className={classes.branchHead}>
          {path.length > 1 && <Grip {...props} path={path} name="this group" />}
          <SegmentedControl<Branch['kind']>
            size="xs"
            aria-label="How many of these tests must match"
            value={branch.kind}
            data={KINDS}
            onChange={(kind) => onChange(replaceNode(rule, path, { ...branch, kind }))}
          />
          {path.length > 1 && <NodeMenu {...props} path={path} node={branch} />}
        </div>
      )}
      <Slot branch={path} index={0} />
      {branch.children.map((child, index) => {
        const own = childPath(path, index);
        return (
          <div key={index}>
            {child.kind === 'leaf' ? (
              <div className={classes.node} data-node={pathText(own)}>
                <Grip {...props} path={own} name="this test" />
                <LeafEditor
                  test={child.test}
                  offers={offers}
                  onChange={(made) => onChange(replaceNode(rule, own, made))}
                />
                <NodeMenu {...props} path={own} node={child} />
              </div>
            ) : (
              <BranchEditor {...props} branch={child} path={own} />
            )}
            {child.kind === 'leaf' && <Faults faults={faults} at={pathText(own)} />}
            <Slot branch={path} index={index + 1} />
          </div>
        );
      })}
      <div className={classes.add}>
        <AddMenu
          words={isExceptions ? 'an exception' : 'a test'}
          items={[
            ...TEST_FORMS.map(({ title, hint, begin }) => ({
              title,
              hint,
              add: () => add({ kind: 'leaf', test: begin(offers) }),
            })),
            ...CONDITION_FORMS.map(({ title, hint, begin }) => ({ title, hint, add: () => add(begin(offers)) })),
          ]}
        />
        <TextButton onClick={() => add({ kind: branch.kind === 'any' ? 'all' : 'any', children: [] })}>
          a group
        </TextButton>
      </div>
      {/* Below all fields: it is told a moment later, and must not move them under the pointer. */}
      <Faults faults={faults} at={pathText(path)} />
    </div>
  );
}

/** The drag handle of a node; with focus on it, the arrow keys move the node. */
function Grip({ rule, onChange, path, name }: Props & { readonly path: TreePath; readonly name: string }) {
  const { setNodeRef, listeners, isDragging } = useDraggable({ id: pathText(path), data: { path } });
  const step = (by: -1 | 1) => {
    const to = stepOf(rule, path, by);
    if (to) onChange(moveNode(rule, path, to.branch, to.index));
  };
  return (
    <button
      ref={setNodeRef}
      type="button"
      className={classes.grip}
      data-dragging={isDragging || undefined}
      aria-label={`Move ${name}: drag it, or press an arrow key`}
      {...listeners}
      onKeyDown={(event) => {
        if (event.key !== 'ArrowUp' && event.key !== 'ArrowDown') return;
        event.preventDefault();
        step(event.key === 'ArrowUp' ? -1 : 1);
      }}
    >
      <IconGripVertical size={14} aria-hidden="true" />
    </button>
  );
}

/** A drop target between two nodes. */
function Slot({ branch, index }: { branch: TreePath; index: number }) {
  const { setNodeRef, isOver } = useDroppable({ id: `${pathText(branch)} ${index}`, data: { branch, index } });
  return <div ref={setNodeRef} className={classes.slot} data-over={isOver || undefined} />;
}

function NodeMenu({ rule, onChange, path, node }: Props & { readonly path: TreePath; readonly node: TestTree }) {
  const [first, another] = node.kind === 'none' ? node.children : [];
  const negated: TestTree = first && !another ? first : { kind: 'none', children: [node] };
  return (
    <Menu position="bottom-end">
      <Menu.Target>
        <ActionIcon variant="subtle" size="sm" aria-label="More actions">
          <IconDots size={14} aria-hidden="true" />
        </ActionIcon>
      </Menu.Target>
      <Menu.Dropdown>
        <Menu.Item onClick={() => onChange(replaceNode(rule, path, negated))}>negate</Menu.Item>
        <Menu.Item onClick={() => onChange(replaceNode(rule, path, { kind: 'any', children: [node] }))}>
          move into a group of its own
        </Menu.Item>
        <Menu.Item onClick={() => onChange(removeNode(rule, path))}>remove</Menu.Item>
      </Menu.Dropdown>
    </Menu>
  );
}

export function Faults({ faults, at }: { faults: readonly RuleFault[]; at: string }) {
  return faults
    .filter((fault) => fault.at === at)
    .map(({ words, grave }) => (
      <p key={words} className={classes.fault} data-grave={grave || undefined} role={grave ? 'alert' : 'note'}>
        {words}
      </p>
    ));
}
