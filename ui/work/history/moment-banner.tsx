'use client';
import { Banner } from '../../kit/controls/banner';
import { TextButton, ToggleButton } from '../../kit/controls/button';
import { ValueField, words } from '../../kit/controls/value-field';
import { useDesk } from '../../window/desk/desk';
import { useVisited } from '../../window/song/visited';
import { goBack, leaveMoment, nameMoment, writeAt } from './history-store';

/** Says without doubt that a moment of the past is shown, and what can be done with it. */
export function MomentBanner() {
  const desk = useDesk();
  const moment = useVisited((visited) => visited.moment);
  const isHeard = useVisited((visited) => visited.isHeard);
  const setHeard = useVisited((visited) => visited.setHeard);
  if (!moment) return null;
  return (
    <Banner role="status">
      <b>As it was {writeAt(moment.at)}</b>
      <span title={moment.name}>{moment.name}</span>
      <ValueField
        key={moment.revision}
        label="Name of this moment"
        shown=""
        parse={words(1)}
        onCommit={(name) => void nameMoment(desk, name)}
        example="before the second verse"
        placeholder="Name this moment"
        maxLength={120}
        width={140}
      />
      <ToggleButton
        isSelected={isHeard}
        data-hint="At the loudness of the song as it is now; off plays the song as it is"
        onChange={setHeard}
      >
        {isHeard ? 'Then is heard' : 'Now is heard'}
      </ToggleButton>
      <TextButton
        data-hint="The song becomes what it was; undo brings back what it is now"
        onPress={() => goBack(desk)}
      >
        Go back to it
      </TextButton>
      <TextButton data-hint="To the song as it is now" onPress={() => leaveMoment(desk)}>
        Return
      </TextButton>
    </Banner>
  );
}
