/** How this browser likes to see things; kept in local storage, never in a case. */
export type Mode = 'paper' | 'lamp';
export type Density = 'reading' | 'compact';

class Look {
  mode = $state<Mode>('paper');
  density = $state<Density>('reading');

  load(): void {
    const saved = localStorage.getItem('look');
    const dark = matchMedia('(prefers-color-scheme: dark)').matches;
    const [mode, density] = (saved ?? `${dark ? 'lamp' : 'paper'} reading`).split(' ');
    this.mode = mode === 'lamp' ? 'lamp' : 'paper';
    this.density = density === 'compact' ? 'compact' : 'reading';
    this.apply();
  }

  toggleMode(): void {
    this.mode = this.mode === 'paper' ? 'lamp' : 'paper';
    this.save();
  }

  toggleDensity(): void {
    this.density = this.density === 'reading' ? 'compact' : 'reading';
    this.save();
  }

  private save(): void {
    localStorage.setItem('look', `${this.mode} ${this.density}`);
    this.apply();
  }

  private apply(): void {
    document.documentElement.dataset.mode = this.mode;
  }
}

export const look = new Look();
