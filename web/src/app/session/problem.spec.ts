import { HttpClient, provideHttpClient, withInterceptors } from '@angular/common/http';
import { HttpTestingController, provideHttpClientTesting } from '@angular/common/http/testing';
import { TestBed } from '@angular/core/testing';
import { Router, provideRouter } from '@angular/router';
import { firstValueFrom } from 'rxjs';
import { Problem, asProblem } from './problem';

describe('asProblem', () => {
  const setUp = () => {
    TestBed.configureTestingModule({
      providers: [
        provideRouter([{ path: 'sign-in', children: [] }]),
        provideHttpClient(withInterceptors([asProblem])),
        provideHttpClientTesting(),
      ],
    });
    const answer = firstValueFrom(TestBed.inject(HttpClient).get('/api/x')).then(
      () => null,
      (error: unknown) => error as Problem,
    );
    return { answer, request: TestBed.inject(HttpTestingController).expectOne('/api/x') };
  };

  it('keeps the controller’s words, and what is wrong at each field', async () => {
    const { answer, request } = setUp();
    const flaws = [
      { code: 'a', message: 'One.', field: 'name' },
      { code: 'b', message: 'Two.', field: 'name' },
      { code: 'c', message: 'Other.' },
    ];
    request.flush({ type: 'about:lattice/draft.refused', title: 'No.', flaws }, { status: 422, statusText: '' });
    const problem = await answer;
    expect(problem).toBeInstanceOf(Problem);
    expect(problem).toMatchObject({ code: 'draft.refused', message: 'No.' });
    expect(problem!.of('name')).toBe('One. Two.');
    expect(problem!.of('vlan')).toBe('');
  });

  it('says what to do when nobody answers', async () => {
    const { answer, request } = setUp();
    request.error(new ProgressEvent('error'));
    expect(await answer).toMatchObject({
      code: 'unreachable',
      message: 'The controller does not answer. Nothing was changed; try again in a moment.',
    });
  });

  it('leads to signing in when the session is over', async () => {
    const { answer, request } = setUp();
    request.flush({ type: 'about:lattice/session.none', title: 'Sign in first.' }, { status: 401, statusText: '' });
    await answer;
    await new Promise((resolve) => setTimeout(resolve));
    expect(TestBed.inject(Router).url).toBe('/sign-in');
  });
});
