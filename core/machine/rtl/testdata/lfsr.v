// full
// A die: a shift register with feedback that never stands, sampled by a key.
module top(input clk, input key, output reg [2:0] die);
  reg [15:0] r = 16'hace1;
  always @(posedge clk) begin
    r <= {r[14:0], r[15] ^ r[13] ^ r[12] ^ r[10]};
    if (key) die <= r[2:0];
  end
endmodule
