import '@fontsource-variable/hanken-grotesk';
import '@fontsource-variable/jetbrains-mono';
import './shell/tokens.css';
import './parts/text.css';
import './parts/buttons.css';
import './parts/table.css';
import './parts/field.css';
import { createRoot } from 'react-dom/client';
import { App } from './app/app.tsx';

const root = document.getElementById('root');
if (root) createRoot(root).render(<App />);
