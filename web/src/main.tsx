import '@fontsource-variable/hanken-grotesk';
import '@fontsource-variable/jetbrains-mono';
import './shell/tokens.css';
import './shell/frame.css';
import './parts/parts.css';
import { createRoot } from 'react-dom/client';
import { App } from './shell/app.tsx';

const root = document.getElementById('root');
if (root) createRoot(root).render(<App />);
