import './search.css';
import { Modal, Switch } from 'antd';
import { closed, themeSwitched } from '../shell/layout.ts';
import { useAppDispatch, useAppSelector } from '../shell/store.ts';

const keys = [
  ['1 to 6', 'stations, in the order of work'],
  ['h', 'home, the line drawn large'],
  ['Ctrl K', 'find anything or do anything'],
  ['/', 'filter the rack'],
  ['j k', 'next and previous in the rack'],
  ['[ ]', 'fold the rack, fold the tape'],
  ['e', 'edit the first thing that can be edited'],
  ['c', 'compare'],
  ['arrows, Enter', 'in a host grid: move, open'],
  ['?', 'this list'],
  ['Esc', 'back out'],
] as const;

export function KeysHelp() {
  const dispatch = useAppDispatch();
  const dark = useAppSelector((state) => state.layout.dark);
  return (
    <Modal open title="Keys" footer={null} onCancel={() => dispatch(closed('keysOpen'))}>
      <table className="keys-table">
        <tbody>
          {keys.map(([key, text]) => (
            <tr key={key}>
              <td>
                <kbd>{key}</kbd>
              </td>
              <td>{text}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <label className="row" style={{ marginTop: 14 }}>
        <Switch checked={dark} onChange={() => dispatch(themeSwitched())} aria-label="Dark" /> Dark
      </label>
    </Modal>
  );
}
